/** Saves one patch: the newest text wins, each save is based on the one before, and what is not saved is kept and tried again.
 * It knows no document and no view, so it goes on when the patch is left. */
import { ref, type Ref } from 'vue'

import { dropDraft, keepDraft } from './drafts'
import { tabOpened } from './tab'
import { api, Refusal } from '../engine/api'
import type { NewSteps } from '../engine/generated/NewSteps'

export type SaveState = 'saved' | 'waiting' | 'saving' | 'offline' | 'failing' | 'conflict' | 'refused' | 'elsewhere'

/** Quiet time after the last change before it is saved, in milliseconds. */
const SETTLE_MS = 350
const RETRY_MS = 1500

/** Steps of undo to be saved with a text, and the one that was made last. */
export interface SavedSteps { new: NewSteps; made: number }

export interface SaverStart {
  library: string
  opening: string
  tab: string
  patch: number
  revision: number
  savedAt: string
  /** What the server has; nothing if that is not known. */
  saved: string | null
  /** The last step of undo the server has. */
  made: number
}

export interface Saver {
  readonly patch: number
  readonly tab: string
  readonly state: Ref<SaveState>
  /** Why it is not saved, with what to do. */
  readonly why: Ref<string>
  /** The same in a few words. */
  readonly short: Ref<string>
  /** Why it is not even kept in the browser. */
  readonly unkept: Ref<string>
  readonly savedAt: Ref<string>
  /** Name of what is being saved. */
  readonly name: Ref<string>
  /** Takes a newer text, with what is new in its steps of undo since those the server has. */
  offer(text: string, name: string, steps?: SavedSteps): void
  /** The last step of undo the server has. */
  made(): number
  /** Saves now; gives whether everything is saved. */
  flush(): Promise<boolean>
  /** The newest text. */
  text(): string
  revision(): number
  /** Ends it; what it kept in the browser goes if wished. */
  end(drop: boolean): void
}

export function makeSaver(start: SaverStart): Saver {
  const { library, opening, tab, patch } = start
  const state = ref<SaveState>('saved')
  const why = ref('')
  const short = ref('')
  const unkept = ref('')
  const savedAt = ref(start.savedAt)
  const name = ref('')
  let revision = start.revision
  let saved = start.saved
  let latest = start.saved ?? ''
  let made = start.made
  let steps: SavedSteps | undefined
  let ended = false
  let wasRefused = false
  let timer: ReturnType<typeof setTimeout> | undefined
  let underWay: Promise<void> | undefined

  /** Whether the server has all of it: the text, and the last step of undo, which may have been taken back before it was sent. */
  const isSent = () => latest === saved && (steps?.made ?? made) === made

  function keep() {
    const text = latest
    if (text === saved) {
      unkept.value = ''
      dropDraft({ library, patch, tab })
      return
    }
    keepDraft({ library, opening, patch, tab, name: name.value, revision, text, at: new Date().toISOString(), opened: tabOpened() }).then(
      () => (unkept.value = ''),
      (error: unknown) => {
        if (text === latest && text !== saved) unkept.value = error instanceof Error ? error.message : String(error)
      },
    )
  }

  function later(ms: number) {
    clearTimeout(timer)
    timer = setTimeout(() => void flush(), ms)
  }

  async function attempt() {
    const [text, sent] = [latest, steps]
    state.value = 'saving'
    try {
      const summary = await api.save(patch, { revision, document: text, steps: sent?.new ?? null })
      if (ended) return
      saved = text
      made = sent?.made ?? made
      // what was refused before has a later state that holds
      if (wasRefused) void api.dropBeside(patch).catch(() => {})
      wasRefused = false
      revision = summary.revision
      savedAt.value = summary.changed_at
      why.value = ''
      // edits made meanwhile are not saved yet, and the page must not say so
      state.value = isSent() ? 'saved' : 'waiting'
      keep()
    } catch (error) {
      if (!ended) failed(error)
    }
  }

  function failed(error: unknown) {
    why.value = error instanceof Error ? error.message : String(error)
    short.value = error instanceof Refusal ? error.problem.title : 'the server is gone'
    if (!(error instanceof Refusal)) state.value = 'offline'
    else if (error.problem.status === 409) state.value = 'conflict'
    else if (error.problem.status === 412) state.value = 'elsewhere'
    else state.value = error.problem.status >= 500 ? 'failing' : 'refused'
    wasRefused ||= state.value === 'refused'
    if (state.value === 'offline' || state.value === 'failing') later(RETRY_MS)
  }

  async function flush(): Promise<boolean> {
    clearTimeout(timer)
    while (!ended && !isSent() && state.value !== 'conflict' && state.value !== 'elsewhere') {
      underWay ??= attempt().finally(() => (underWay = undefined))
      await underWay
      if (state.value !== 'waiting' && state.value !== 'saved') return false
    }
    return latest === saved
  }

  return {
    patch, tab, state, why, short, unkept, savedAt, name,
    offer(text, called, since) {
      name.value = called
      const before = latest
      latest = text
      // steps alone are not worth a question about what another window has
      const isAsked = state.value === 'conflict' || state.value === 'elsewhere'
      steps = isAsked && text === saved ? undefined : since
      if (isSent() && before === latest) return
      keep()
      if (isSent() && state.value !== 'saving') state.value = 'saved'
      else if (state.value === 'saved' || state.value === 'refused') state.value = 'waiting'
      if (state.value === 'waiting') later(SETTLE_MS)
    },
    flush,
    made: () => made,
    text: () => latest,
    revision: () => revision,
    end(drop) {
      ended = true
      clearTimeout(timer)
      if (drop) dropDraft({ library, patch, tab })
    },
  }
}
