/** Which patch is open, what of it and of those left before is not saved yet, and what was found unsaved. Nothing entered is lost:
 * what the server does not have yet is kept in the browser until it has. */
import { useEventListener } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowReactive, shallowRef, watch } from 'vue'

import { timeOfDay } from '../draw/dates'
import { api, Refusal, REPLACED, setLibrary } from '../engine/api'
import type { PatchFull } from '../engine/generated/PatchFull'
import type { StoredSteps } from '../engine/generated/StoredSteps'
import { draftsOf, dropDraft, type Draft } from '../saving/drafts'
import { makeSaver, type Saver } from '../saving/saver'
import { livingTabs, tabOpened, thisTab } from '../saving/tab'
import { useDocument } from './document'
import { useMessages } from './messages'

/** Which library, which opening of it, and which tab this is. */
interface Place { library: string; opening: string; tab: string }

const clock = (at: string) => (at ? timeOfDay(new Date(at)) : '')

export const useSaving = defineStore('saving', () => {
  const document = useDocument()
  const messages = useMessages()
  /** The open patch; none in the Library. */
  const current = shallowRef<Saver>()
  /** The patch that is open, or was open last: where the views of a patch lead to. */
  const last = ref<number | null>(null)
  /** The load of the document that the open patch's edits belong to. */
  let bound = -1
  /** Patches left before they were saved. */
  const left = shallowReactive(new Map<number, Saver>())
  /** What was found unsaved and needs a decision. */
  const found = ref<Draft[]>([])
  /** Rises with every navigation: whoever waited for an answer sees whether it is still wanted. */
  let navigation = 0
  let place: Promise<Place> | undefined

  /** Which library and tab this is; looks for unsaved changes the first time. */
  function start() {
    place ??= (async () => {
      const [about, tab] = await Promise.all([api.about(), thisTab()])
      setLibrary(about)
      const at = { library: about.library, opening: about.opening, tab }
      void look(at)
      return at
    })()
    // a failure is no answer for good
    place.catch(() => (place = undefined))
    return place
  }

  /** Unsaved changes of tabs that are gone are offered; this tab's own are sent, or taken up when their patch is opened. */
  async function look({ library, opening: present, tab }: Place) {
    const living = await livingTabs()
    for (const draft of await draftsOf(library)) {
      // what was based on a library that is none any more needs a decision
      const isOther = (draft.opening ?? present) !== present
      if (isOther || (draft.tab !== tab && !living.has(draft.tab))) found.value.push(draft)
      else if (draft.tab === tab && current.value?.patch !== draft.patch && !left.has(draft.patch) && !opening.has(draft.patch)) {
        const saver = makeSaver({ library, opening: present, tab, patch: draft.patch, revision: draft.revision, savedAt: '', saved: null, made: 0 })
        left.set(draft.patch, saver)
        saver.offer(draft.text, draft.name)
      }
    }
  }

  /** Whether the document is that of the open patch. */
  const isBound = () => current.value !== undefined && document.loads === bound
  function offer() {
    if (!current.value || !isBound()) return
    const text = document.text()
    if (text) current.value.offer(text, document.view?.name ?? '', document.steps(current.value.made()))
  }
  watch(
    () => [document.edits, document.gesture],
    () => {
      if (document.gesture === 0 && document.edits > 0) offer()
    },
  )
  // left in the middle of a drag all is as before the drag
  useEventListener(window, 'pagehide', () => {
    if (document.gesture !== 0 && isBound()) document.alter({ ask: 'take_back', gesture: document.gesture })
    offer()
  })
  useEventListener(window, 'beforeunload', (event) => {
    const all = [...left.values(), ...(current.value ? [current.value] : [])]
    if (all.some((saver) => saver.unkept.value && saver.state.value !== 'saved')) event.preventDefault()
  })

  /** Time for what is not saved to be kept in the browser before the page is loaded again, in milliseconds. */
  const KEEPING_MS = 400
  /** A backup was put in the library's place: what is open belongs to what was there before. The page is loaded again; what is not saved is kept,
   * and offered then. */
  async function loadAgain() {
    offer()
    await new Promise((go) => window.setTimeout(go, KEEPING_MS))
    const all = [...left.values(), ...(current.value ? [current.value] : [])]
    if (!all.some((saver) => saver.unkept.value)) window.location.reload()
  }
  useEventListener(window, REPLACED, () => void loadAgain())
  const windows = new BroadcastChannel(REPLACED)
  windows.onmessage = () => void loadAgain()
  /** Tells all windows that another library is in place now, this one too. */
  function tellReplaced() {
    windows.postMessage('')
    void loadAgain()
  }

  /** Leaves the open patch at once; what is not saved goes on being saved. Gives the number of this navigation. */
  function leave(): number {
    offer()
    const saver = current.value
    if (saver && saver.state.value !== 'saved') {
      left.set(saver.patch, saver)
      void saver.flush()
    }
    current.value = undefined
    bound = -1
    return ++navigation
  }
  const isNow = (turn: number) => turn === navigation
  watch(
    () => [...left.values()].map((saver) => [saver, saver.state.value] as const),
    async (list) => {
      for (const [saver, state] of list) {
        if (state === 'saved') left.delete(saver.patch)
        if (state !== 'conflict' && state !== 'refused') continue
        // it will not be saved by itself: it needs a decision
        const at = await start()
        const draft = { ...at, patch: saver.patch, name: saver.name.value, revision: saver.revision(), text: saver.text(), at: new Date().toISOString(), opened: tabOpened() }
        if (!left.delete(saver.patch)) continue
        saver.end(false)
        if (state === 'refused') findBroken({ ...draft, why: await api.keepBeside(saver.patch, draft.text).catch(() => saver.why.value) })
        else found.value.push(draft)
      }
    },
  )

  function take(full: PatchFull, at: Place) {
    const { id: patch, revision, changed_at: savedAt } = full.summary
    current.value = makeSaver({ ...at, patch, revision, savedAt, saved: full.document, made: document.madeLast() })
    current.value.name.value = full.summary.name
    bound = document.loads
    last.value = patch
  }
  /** Puts an unsaved text over the open patch, as edits not saved yet. */
  function takeUp(text: string): string | undefined {
    const refused = document.alter({ ask: 'take_up', text })
    if (refused) return refused
    offer()
    return undefined
  }
  /** Opens a stored document with its steps of undo, where they lead from it. */
  const load = (full: PatchFull, kept?: StoredSteps) => document.load(full.document, full.summary.id, kept?.revision === full.summary.revision ? kept.steps : null)
  /** A patch with its steps of undo; without them it is opened all the same. */
  const readBoth = (patch: number) => Promise.all([api.read(patch), api.steps(patch).catch(() => undefined)])

  const opening = new Set<number>()
  /** Opens a patch; gives why not. What was not saved last time is taken up again. An opening that is left does nothing more. */
  async function open(patch: number): Promise<string | undefined> {
    if (current.value?.patch === patch && isBound()) {
      navigation++
      return undefined
    }
    const turn = leave()
    opening.add(patch)
    try {
      const at = await start()
      const before = left.get(patch)
      // its last save is soon over; without an answer its text is taken up as it is
      if (before) await Promise.race([before.flush(), new Promise((resolve) => window.setTimeout(resolve, 1500))])
      if (!isNow(turn)) return undefined
      const [full, kept] = await readBoth(patch)
      if (!isNow(turn)) return undefined
      const own = (await draftsOf(at.library)).filter((draft) => draft.patch === patch && draft.tab === at.tab && (draft.opening ?? at.opening) === at.opening)
      if (!isNow(turn)) return undefined
      const refused = load(full, kept)
      if (refused) return refused
      left.get(patch)?.end(false)
      left.delete(patch)
      take(full, at)
      for (const draft of own) {
        found.value = found.value.filter((other) => other.patch !== patch || other.tab !== draft.tab)
        if (draft.text === full.document) dropDraft(draft)
        else if (draft.revision !== full.summary.revision) found.value.push(draft)
        else {
          const why = takeUp(draft.text)
          if (why) findBroken({ ...draft, why })
        }
      }
      const beside = kept?.beside
      if (beside) findBroken({ ...at, patch, name: full.summary.name, revision: full.summary.revision, text: beside.document, at: beside.kept_at, why: beside.why })
      return undefined
    } finally {
      opening.delete(patch)
    }
  }

  /** What cannot be saved as it is stands among what was found, once for each patch: the newest. */
  function findBroken(draft: Draft) {
    found.value = [...found.value.filter((other) => other.patch !== draft.patch || !other.why), draft]
  }
  watch(
    () => current.value?.state.value,
    (state, before) => {
      const saver = current.value
      if (state === 'saved' && before === 'saving' && saver) found.value = found.value.filter(({ patch, why, tab }) => patch !== saver.patch || why === undefined || tab !== saver.tab)
    },
  )
  // a state the server refuses is kept as it is, in the browser and beside the good one, and its nearest valid one is offered
  watch(
    () => (current.value?.state.value === 'refused' ? current.value.text() : undefined),
    async (text) => {
      const saver = current.value
      if (!text || !saver) return
      const at = await start()
      const draft = { ...at, patch: saver.patch, name: saver.name.value, revision: saver.revision(), text, at: new Date().toISOString(), opened: tabOpened() }
      const why = await api.keepBeside(saver.patch, text).catch(() => saver.why.value)
      findBroken({ ...draft, why })
    },
  )

  /** Saves what is open now; gives whether everything is saved. */
  async function save(): Promise<boolean> {
    offer()
    return current.value ? current.value.flush() : true
  }

  const forget = (draft: Draft) => (found.value = found.value.filter((other) => other !== draft))
  /** Takes unsaved changes up; what is stored by now is kept as a version first. Gives the patch to be opened. */
  async function takeDraft(draft: Draft): Promise<number> {
    const [at] = await Promise.all([start(), document.start()])
    const text = draft.why === undefined ? draft.text : mended(draft.text)
    const both = await readBoth(draft.patch).catch((error: unknown) => {
      if (error instanceof Refusal && error.problem.status === 404) return undefined
      throw error
    })
    if (!both) return copyDraft(draft)
    const [full, kept] = both
    if (full.summary.revision !== draft.revision) await api.keepVersion(draft.patch, `before the changes of ${clock(draft.at)}`)
    leave()
    left.get(draft.patch)?.end(false)
    left.delete(draft.patch)
    const refused = load(full, kept)
    if (refused) throw new Error(refused)
    take(full, at)
    const why = takeUp(text)
    if (why) throw new Error(why)
    if (draft.why !== undefined) await api.dropBeside(draft.patch)
    if (draft.tab !== at.tab) dropDraft(draft)
    forget(draft)
    return draft.patch
  }
  /** The nearest valid state; says what was left out. */
  function mended(text: string): string {
    const answer = document.ask({ ask: 'mend', text })
    document.refusal = ''
    if (answer.is !== 'mended') throw new Error(answer.is === 'refused' ? answer.why : 'nothing of it can be kept')
    if (answer.left_out.length) messages.add({ severity: 'warn', summary: 'Left out', detail: answer.left_out.join('; '), life: 20_000 })
    return answer.text
  }
  /** Keeps unsaved changes as a patch of their own; gives its number. */
  async function copyDraft(draft: Draft): Promise<number> {
    const made = await api.create({ document: draft.text, suffix: '(unsaved)' })
    leaveBehind(draft)
    return made.summary.id
  }
  /** Lets unsaved changes go. */
  function leaveBehind(draft: Draft) {
    if (draft.why !== undefined) void api.dropBeside(draft.patch).catch(() => {})
    dropDraft(draft)
    forget(draft)
  }

  /** What is open goes into the library served now as a patch of its own; gives its number. */
  async function keepAsNew(suffix: string): Promise<number> {
    offer()
    const saver = current.value
    if (saver?.state.value === 'elsewhere') setLibrary(await api.about())
    const made = await api.create({ document: document.text(), suffix })
    saver?.end(true)
    current.value = undefined
    bound = -1
    return made.summary.id
  }

  /** After a conflict: drops this window's state for the stored one. */
  async function takeOther() {
    const saver = current.value
    if (!saver) return
    const [full, kept] = await readBoth(saver.patch)
    const at = await start()
    if (current.value !== saver) return
    const refused = load(full, kept)
    if (refused) throw new Error(refused)
    saver.end(true)
    take(full, at)
  }

  const state = computed(() => current.value?.state.value ?? 'saved')
  const id = computed(() => current.value?.patch ?? null)
  const words = computed(() => {
    const saver = current.value
    if (!saver) return ''
    const kept = saver.unkept.value ? 'Not kept in this browser either: save it as a file' : 'Kept here'
    return {
      saved: `Saved ${clock(saver.savedAt.value)}`,
      waiting: saver.unkept.value ? `Saving… ${kept}` : 'Saving…',
      saving: 'Saving…',
      offline: `Not saved: ${saver.short.value}. ${kept}, sent when it returns`,
      failing: `Not saved: ${saver.short.value}. ${kept}, tried again`,
      conflict: 'Changed in another window',
      refused: `Not saved: ${saver.why.value}`,
      elsewhere: 'Not saved: another library is served here now',
    }[saver.state.value]
  })
  /** Why the open patch is not saved, with what to do. */
  const why = computed(() => current.value?.why.value ?? '')
  /** Whether the open patch is neither saved nor kept in this browser. */
  const isUnkept = computed(() => Boolean(current.value?.unkept.value) && state.value !== 'saved')
  /** How it stands with patches that were left. */
  const waiting = computed(() => [...left.values()].map((saver) => ({ name: saver.name.value, why: saver.why.value })))

  return { id, last, state, words, why, isUnkept, waiting, found, start, tellReplaced, open, leave, isNow, save, takeDraft, copyDraft, leaveBehind, keepAsNew, takeOther }
})
