/** The open document: a handle on the core's document, the selection, and what is heard for now. */
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import type { Address } from '../engine/generated/Address'
import type { Answer } from '../engine/generated/Answer'
import type { DocumentView } from '../engine/generated/DocumentView'
import type { Edit } from '../engine/generated/Edit'
import type { Listening } from '../engine/generated/Listening'
import type { ParamId } from '../engine/generated/ParamId'
import type { Question } from '../engine/generated/Question'
import { Binary, moduleBytes, startModule, type Module } from '../engine/module'

export const useDocument = defineStore('document', () => {
  let core: Module | undefined
  const view = shallowRef<DocumentView>()
  const selected = ref<number | null>(null)
  /** Counts everything that changes the sound; listeners watch it. */
  const change = ref(0)
  /** Counts edits of the document itself, undo and redo included. */
  const edits = ref(0)
  const program = shallowRef<Uint8Array<ArrayBuffer>>()
  /** Number of the gesture under way; 0 while the hand rests. */
  const gesture = ref(0)
  const refusal = ref('')
  let lastGesture = 0

  async function start() {
    core ??= await startModule((await moduleBytes()).slice(0))
  }

  function ask(question: Question): Answer {
    if (!core) return { is: 'refused', why: 'the sound engine is still loading' }
    const answer = core.ask(question)
    if (answer.is === 'refused') refusal.value = answer.why
    if (answer.is === 'document') {
      view.value = answer.view
      program.value = core.binary(Binary.program)
      if (answer.select !== null) selected.value = answer.select
      else if (!answer.view.strips.some((strip) => strip.id === selected.value)) selected.value = null
      change.value++
    }
    return answer
  }

  /** Asks for a change of the document; gives why not, or nothing. */
  function alter(question: Question): string | undefined {
    refusal.value = ''
    const answer = ask(question)
    if (answer.is === 'refused') return answer.why
    edits.value++
    return undefined
  }

  /** Sets a value from typed text; the field itself says why not. */
  function type(address: Address, typed: string): string | undefined {
    const why = alter({ ask: 'type', address, text: typed })
    refusal.value = ''
    return why
  }

  function load(text: string): string | undefined {
    const answer = ask({ ask: 'load', text })
    return answer.is === 'refused' ? answer.why : undefined
  }

  const edit = (change: Edit) => alter({ ask: 'edit', edit: change, gesture: null })
  const listen = (listening: Listening) => ask({ ask: 'listen', listening })

  function text(): string {
    const answer = ask({ ask: 'save' })
    return answer.is === 'text' ? answer.text : ''
  }

  function beginGesture(): number {
    gesture.value = ++lastGesture
    return lastGesture
  }
  function endGesture() {
    gesture.value = 0
  }

  const toggled = (list: number[], id: number) => (list.includes(id) ? list.filter((i) => i !== id) : [...list, id])
  function toggleMute(id: number) {
    if (view.value) listen({ ...view.value.listening, muted: toggled(view.value.listening.muted, id) })
  }
  function toggleSolo(id: number) {
    if (view.value) listen({ ...view.value.listening, soloed: toggled(view.value.listening.soloed, id) })
  }

  const selectedStrip = computed(() => view.value?.strips.find((strip) => strip.id === selected.value))
  const value = (param: ParamId) => view.value?.values.find((v) => v.address.param === param)
  const isListening = computed(() => {
    const now = view.value?.listening
    return now !== undefined && now.muted.length + now.soloed.length > 0
  })

  return {
    view, selected, selectedStrip, change, edits, program, gesture, refusal, isListening,
    start, ask, alter, load, edit, listen, text, beginGesture, endGesture, toggleMute, toggleSolo, value,
    undo: () => alter({ ask: 'undo' }),
    redo: () => alter({ ask: 'redo' }),
    type,
  }
})
