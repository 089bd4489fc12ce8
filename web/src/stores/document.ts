/** The open document: a handle on the core's document, the selection, and what is heard for now. */
import { defineStore } from 'pinia'
import { computed, ref, shallowReactive, shallowRef } from 'vue'

import type { Address } from '../engine/generated/Address'
import type { Answer } from '../engine/generated/Answer'
import type { DocumentView } from '../engine/generated/DocumentView'
import type { Edit } from '../engine/generated/Edit'
import type { EffectKindView } from '../engine/generated/EffectKindView'
import type { KeptSteps } from '../engine/generated/KeptSteps'
import type { KindView } from '../engine/generated/KindView'
import type { LinkView } from '../engine/generated/LinkView'
import type { Listening } from '../engine/generated/Listening'
import type { ParamId } from '../engine/generated/ParamId'
import type { Piece } from '../engine/generated/Piece'
import type { PieceView } from '../engine/generated/PieceView'
import type { Question } from '../engine/generated/Question'
import type { Rules } from '../engine/generated/Rules'
import type { SpreadView } from '../engine/generated/SpreadView'
import type { ValueView } from '../engine/generated/ValueView'
import type { SavedSteps } from '../saving/saver'
import { compiledModule, startModule, type Module } from '../engine/module'
import { makeMemory, share } from '../engine/told'
import { makeFollowing } from './following'
import { makeHearing } from './hearing'
import { makeSelection } from './selection'

export const useDocument = defineStore('document', () => {
  let core: Module | undefined
  const whole = makeMemory()

  /** What each parameter does; the same for all units, so it is asked for once. */
  const helps = new Map<ParamId, string>()
  const help = (param: ParamId) => helps.get(param) ?? ''
  /** Limits and laws of the core; there once it has started. */
  const rules = shallowRef<Rules>()
  /** The kinds of sources of movement. */
  const sourceKinds = shallowRef<KindView[]>([])
  /** The kinds of effects. */
  const effectKinds = shallowRef<EffectKindView[]>([])
  /** All there is to see of it; each field is followed by itself, so that what reads one is drawn anew only when that one changed. */
  const view = shallowRef<DocumentView>()
  let shown: DocumentView | undefined
  function show(next: DocumentView) {
    shown = next
    if (view.value) Object.assign(view.value, next)
    else view.value = shallowReactive({ ...next })
  }
  const following = makeFollowing(
    (atRest) => {
      const answer = ask({ ask: 'view', at_rest: atRest })
      return answer.is === 'document' ? answer.view : undefined
    },
    (next, isNewest) => {
      show(next)
      if (isNewest) ahead.clear()
    },
  )
  const selection = makeSelection(view)
  const { units } = selection
  /** Counts everything that changes the sound; listeners watch it. */
  const change = ref(0)
  /** Counts edits of the document itself, undo and redo included. */
  const edits = ref(0)
  const program = shallowRef<Uint8Array<ArrayBuffer>>()
  /** Names of the waves it reads. */
  const banks = shallowRef<string[]>([])
  /** What a hand that moves has hold of, where it is newer than what is seen; each followed by itself. */
  const ahead = shallowReactive(new Map<string, PieceView>())
  const valueKey = ({ param, id, point }: Address) => `value ${param} ${id} ${point}`
  function keyOf(piece: PieceView): string {
    switch (piece.of) {
      case 'value': return valueKey(piece.value.address)
      case 'handles': case 'wave': return `${piece.of} ${piece.unit}`
      case 'shape': return `shape ${piece.source}`
      case 'effect': return `effect ${piece.effect.id}`
      case 'phrase': return 'phrase 0'
    }
  }
  /** Number of the gesture under way; 0 while the hand rests. */
  const gesture = ref(0)
  const refusal = ref('')
  /** What the last change has to say for itself; nothing if all is as asked. */
  const said = ref('')
  let lastGesture = 0
  /** Counts documents put in place: whose edits belong to which patch. */
  let loads = 0

  let starting: Promise<void> | undefined
  let begun: () => void = () => {}
  /** When the core is there, whoever starts it. */
  const ready = new Promise<void>((resolve) => (begun = resolve))
  /** Loads the core, once whoever asks: a second one would forget what the first holds. */
  function start(): Promise<void> {
    starting ??= (async () => {
      core = await startModule(await compiledModule())
      const answer = core.ask({ ask: 'rules' })
      if (answer.is !== 'rules') return
      answer.helps.forEach(([param, help]) => helps.set(param, help))
      rules.value = answer.rules
      sourceKinds.value = answer.sources
      effectKinds.value = answer.effects
      begun()
    })()
    // a failure is no answer for good
    starting.catch(() => (starting = undefined))
    return starting
  }

  function ask(question: Question): Answer {
    if (!core) return { is: 'refused', why: 'the sound engine is still loading' }
    const answer = core.ask(question)
    if (answer.is === 'refused') refusal.value = answer.why
    if (answer.is === 'changed') {
      banks.value = answer.banks
      program.value = core.parts()[0]
      for (const piece of answer.pieces) ahead.set(keyOf(piece), piece)
      change.value++
      following.behind()
    }
    if (answer.is === 'document') {
      answer.view = share(shown, whole(answer.view))
      // only looked at
      if (question.ask === 'view') return answer
      said.value = answer.said ?? ''
      following.seen()
      show(answer.view)
      ahead.clear()
      banks.value = answer.view.banks
      program.value = core.parts()[0]
      selection.follow(answer.view, answer.select)
      change.value++
    }
    return answer
  }

  /** What goes with an answer that is ready, and its file name; nothing where it was refused. */
  function file(question: Question): { name: string; bytes: Uint8Array<ArrayBuffer> } | undefined {
    const answer = ask(question)
    return answer.is === 'ready' && core ? { name: answer.file_name, bytes: core.parts()[0] } : undefined
  }
  /** Makes a change of a file that is put in; gives why not, or nothing. */
  function alterBy(bytes: Uint8Array, question: Question): string | undefined {
    core?.put(bytes)
    return alter(question)
  }

  /** Asks for a change of the document; gives why not, or nothing. */
  function alter(question: Question): string | undefined {
    refusal.value = ''
    const answer = ask(question)
    if (answer.is === 'refused') return answer.why
    if (answer.is !== 'unchanged') edits.value++
    return undefined
  }

  /** An edit a hand makes while it moves: what is heard and what it has hold of come at once, all else that is seen as often as there is time for it. */
  const byHand = (on: Piece, asks: Question) => alter({ ask: 'by_hand', on, asks })
  /** Moves a value under a hand. */
  const drag = (question: Omit<Extract<Question, { ask: 'drag' }>, 'ask'>) => byHand({ of: 'value', address: question.address }, { ...question, ask: 'drag' })
  /** What is known of a value: under a hand that moves it is newer than what is seen. */
  function newest(value: ValueView): ValueView {
    const now = ahead.get(valueKey(value.address))
    // where it stands has its own words for it
    return now?.of === 'value' ? { ...now.value, label: value.label, section: value.section } : value
  }
  /** Likewise of what else a hand may have hold of; nothing while it has not. */
  function underHand<Of extends PieceView['of']>(of: Of, id: number) {
    return ahead.get(`${of} ${id}`) as Extract<PieceView, { of: Of }> | undefined
  }

  /** As `alter`, where whoever asks says why not by itself. */
  function tried(question: Question): string | undefined {
    const why = alter(question)
    refusal.value = ''
    return why
  }

  /** Sets a value from typed text; the field itself says why not. */
  function type(address: Address, typed: string, of = units.value): string | undefined {
    return tried({ ask: 'type', address, units: of, text: typed })
  }

  /** What is good to know of a typed text before it is taken. */
  function hint(address: Address, typed: string): string {
    const answer = ask({ ask: 'hint', address, text: typed })
    return answer.is === 'text' ? answer.text : ''
  }

  /** Lets the strips say which recordings are missing. */
  let lacked = ''
  function tellMissing(contents: string[]) {
    const text = contents.join()
    if (text === lacked) return
    lacked = text
    ask({ ask: 'missing', contents })
  }

  /** Opens a patch; one of the library has its steps of undo again, those it was left with or those that are kept beside it. */
  function load(text: string, of: number | null = null, steps: KeptSteps | null = null): string | undefined {
    lacked = ''
    const answer = ask({ ask: 'load', text, of, steps })
    if (answer.is === 'refused') return answer.why
    // a drag of the document before does not go on in this one
    gesture.value = 0
    loads++
    return undefined
  }

  /** An edit; of one of the selected strips it is one of all of them. */
  const edit = (change: Edit) => alter({ ask: 'edit', edit: change, units: units.value, gesture: null })
  /** An edit of what it names, whatever is selected. */
  const editOne = (change: Edit) => alter({ ask: 'edit', edit: change, units: [], gesture: null })
  const listen = (listening: Listening) => ask({ ask: 'listen', listening })

  const hearing = makeHearing(view, listen)

  function text(): string {
    const answer = ask({ ask: 'save' })
    return answer.is === 'text' ? answer.text : ''
  }
  /** What is new in the steps of undo since the one with this number. */
  function steps(since: number): SavedSteps | undefined {
    const answer = ask({ ask: 'steps', since })
    return answer.is === 'steps' ? { new: answer.new, made: answer.made } : undefined
  }
  /** The step that was made last. */
  function madeLast(): number {
    const answer = ask({ ask: 'steps', since: null })
    return answer.is === 'steps' ? answer.made : 0
  }
  /** What sounds in this state, or in the other: of patches that sound alike it is the same. */
  function sounding(other = false): string {
    const answer = ask({ ask: 'sounding', other })
    return answer.is === 'text' ? answer.text : ''
  }

  function beginGesture(): number {
    gesture.value = ++lastGesture
    return lastGesture
  }
  function endGesture() {
    following.settle()
    gesture.value = 0
  }

  /** By source; those that are as they were stay the same lists. */
  const links = computed<Record<number, LinkView[]>>((before) => {
    const by: Record<number, LinkView[]> = {}
    for (const link of view.value?.links ?? []) (by[link.from] ??= []).push(link)
    return share(before, by)
  })
  const NO_LINKS: LinkView[] = []
  const linksOf = (id: number) => links.value[id] ?? NO_LINKS
  /** The link that leads to a value: from a source, or from whichever, the newest of them. */
  const linkTo = (to: Address, from?: number) => view.value?.links.filter((link) => (from === undefined || link.from === from) && valueKey(link.to) === valueKey(to)).at(-1)
  const value = (param: ParamId) => view.value?.values.find((v) => v.address.param === param)
  /** Where a value of several selected strips differs, or of what they send: from which to which. */
  function spread(address: Address): SpreadView | undefined {
    if (units.value.length < 2 || change.value === 0) return undefined
    const answer = ask({ ask: 'spread', address, units: units.value })
    return answer.is === 'spread' ? (answer.spread ?? undefined) : undefined
  }
  /** Of how many strips a value is one, as they are selected. */
  function countOf(address: Address): number {
    const answer = ask({ ask: 'spread', address, units: units.value })
    return answer.is === 'spread' ? answer.count : 1
  }
  return {
    view, banks, byHand, drag, newest, underHand, rules, sourceKinds, effectKinds, linksOf, linkTo, change, edits, program, gesture, refusal, said, ...selection, ...hearing,
    get loads() { return loads },
    start, ready: () => ready, help, ask, file, tried, alter, alterBy, load, edit, editOne, listen, text, steps, madeLast, sounding, tellMissing, beginGesture, endGesture, spread, value,
    hint, countOf,
    undo: () => alter({ ask: 'undo' }),
    redo: () => alter({ ask: 'redo' }),
    type,
  }
})
