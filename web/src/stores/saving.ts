/** Saves every settled edit by itself, and says honestly how it stands. Nothing entered is lost: what the
 * server does not have yet is kept in the browser until it has. */
import { useIntervalFn, useTimeoutFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'

import { api, Refusal } from '../engine/api'
import type { PatchFull } from '../engine/generated/PatchFull'
import { useDocument } from './document'

export type SaveState = 'saved' | 'waiting' | 'saving' | 'offline' | 'conflict' | 'refused'

/** Quiet time after the last change before it is saved, in milliseconds. */
const SETTLE_MS = 350
const RETRY_MS = 1500
const keptKey = (id: number) => `zolvik-unsaved-${id}`

export const useSaving = defineStore('saving', () => {
  const document = useDocument()
  const id = ref<number | null>(null)
  const revision = ref(0)
  const state = ref<SaveState>('saved')
  const savedAt = ref('')
  const why = ref('')
  let savedText = ''
  let underWay: Promise<void> = Promise.resolve()

  /** What the server does not have yet stays in the browser, even if the page is closed this instant. */
  function keep(patch: number) {
    const text = document.text()
    if (text === savedText) localStorage.removeItem(keptKey(patch))
    else localStorage.setItem(keptKey(patch), JSON.stringify({ revision: revision.value, text }))
  }

  /** Saves what is not saved yet, after a save that is under way: each is based on the one before. */
  function save(): Promise<void> {
    underWay = underWay.then(attempt)
    return underWay
  }

  async function attempt() {
    if (id.value === null || state.value === 'conflict') return
    const text = document.text()
    if (text === savedText) {
      state.value = 'saved'
      return
    }
    const patch = id.value
    state.value = 'saving'
    keep(patch)
    try {
      const summary = await api.save(patch, { revision: revision.value, document: text })
      if (id.value !== patch) {
        localStorage.removeItem(keptKey(patch))
        return
      }
      savedText = text
      revision.value = summary.revision
      savedAt.value = summary.changed_at
      // edits made meanwhile are not saved yet, and the page must not say so
      const newer = document.text() !== text
      state.value = newer ? 'waiting' : 'saved'
      keep(patch)
      if (newer) settle.start()
    } catch (error) {
      if (id.value !== patch) return
      failed(error)
    }
  }

  function failed(error: unknown) {
    why.value = error instanceof Error ? error.message : String(error)
    if (!(error instanceof Refusal)) state.value = 'offline'
    else state.value = error.problem.status === 409 ? 'conflict' : 'refused'
  }

  const settle = useTimeoutFn(() => void save(), SETTLE_MS, { immediate: false })
  watch(
    () => [document.edits, document.gesture],
    () => {
      if (id.value === null || document.gesture !== 0 || document.edits === 0) return
      if (state.value === 'saved' || state.value === 'refused') state.value = 'waiting'
      keep(id.value)
      settle.start()
    },
  )
  useIntervalFn(() => {
    if (state.value === 'offline') void save()
  }, RETRY_MS)

  function take(full: PatchFull) {
    id.value = full.summary.id
    revision.value = full.summary.revision
    savedAt.value = full.summary.changed_at
    savedText = full.document
    state.value = 'saved'
  }

  /** Opens a patch; gives why not. What was not saved last time is taken up again. */
  async function open(patch: number): Promise<string | undefined> {
    await leave()
    const full = await api.read(patch)
    const refused = document.load(full.document)
    if (refused) return refused
    take(full)
    const kept = localStorage.getItem(keptKey(patch))
    if (kept) takeUp(JSON.parse(kept) as { revision: number; text: string })
    return undefined
  }

  function takeUp(kept: { revision: number; text: string }) {
    if (kept.text === savedText || document.load(kept.text)) return
    revision.value = kept.revision
    state.value = 'waiting'
    settle.start()
  }

  /** Saves at once what is still waiting. */
  async function leave() {
    settle.stop()
    await underWay
    settle.stop()
    if (state.value === 'waiting') await save()
    id.value = null
  }

  /** After a conflict: keeps this window's state as a patch of its own; gives its number. */
  async function keepBoth(): Promise<number> {
    const text = document.text()
    const full = await api.create({ document: text })
    const named = await api.rename(full.summary.id, `${full.summary.name} (mine)`)
    if (id.value !== null) localStorage.removeItem(keptKey(id.value))
    return named.id
  }

  /** After a conflict: drops this window's state for the stored one. */
  async function takeOther() {
    if (id.value === null) return
    localStorage.removeItem(keptKey(id.value))
    const full = await api.read(id.value)
    if (!document.load(full.document)) take(full)
  }

  const words = computed(() => {
    const time = savedAt.value ? new Date(savedAt.value).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' }) : ''
    return {
      saved: `Saved ${time}`,
      waiting: 'Saving…',
      saving: 'Saving…',
      offline: 'Server gone. Your edits are kept and saved when it returns',
      conflict: 'Changed in another window',
      refused: `Not saved: ${why.value}`,
    }[state.value]
  })

  return { id, revision, state, words, why, open, leave, save, keepBoth, takeOther }
})
