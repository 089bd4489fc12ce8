/** What was said lately: shown for a while, and to be read again. */
import { defineStore } from 'pinia'
import { ref } from 'vue'

export interface Message {
  severity: 'error' | 'warn' | 'info' | 'success'
  summary: string
  detail?: string
  /** For how long it is shown, in milliseconds. */
  life: number
}

/** How many are kept. */
const KEPT = 30

export const useMessages = defineStore('messages', () => {
  const list = ref<(Message & { at: Date; id: number })[]>([])
  /** How many came since the list was last looked at. */
  const unread = ref(0)
  let last = 0
  let show: (message: Message) => void = () => {}
  /** Whoever shows messages; there is one. */
  const shownBy = (by: (message: Message) => void) => (show = by)
  function add(message: Message) {
    list.value = [{ ...message, at: new Date(), id: ++last }, ...list.value].slice(0, KEPT)
    unread.value++
    show(message)
  }
  const read = () => (unread.value = 0)
  return { list, unread, add, read, shownBy }
})
