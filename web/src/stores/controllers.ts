/** What keyboards and controllers send: the core says what it means; what is learnt is kept for this installation. */
import { defineStore } from 'pinia'
import { ref } from 'vue'

import { keptApi } from '../engine/kept'
import type { Address } from '../engine/generated/Address'
import type { Answer } from '../engine/generated/Answer'
import type { Learnt } from '../engine/generated/Learnt'
import type { Meant } from '../engine/generated/Meant'
import type { Moved } from '../engine/generated/Moved'
import type { Question } from '../engine/generated/Question'
import { useDocument } from './document'
import { useMessages } from './messages'
import { usePlaying, type Message } from './playing'

/** Quiet time after which a turn of a knob is over, in milliseconds. */
const REST_MS = 400
const KIND = 'learnt'
const nameOf = (controller: number) => `CC ${controller}`

export const useControllers = defineStore('controllers', () => {
  const document = useDocument()
  const playing = usePlaying()
  const messages = useMessages()
  const learnt = ref<Learnt[]>([])
  /** What the next controller that is moved is to move. */
  const learning = ref<Moved>()
  const isSame = (a: Moved | undefined, b: Moved) => JSON.stringify(a) === JSON.stringify(b)

  function drop(controllers: number[]) {
    controllers.forEach((gone) => void keptApi.forget(KIND, nameOf(gone)).catch(() => {}))
  }
  /** Asks about what is learnt, and shows it as it is then. */
  function ask(question: Question) {
    const answer: Answer = document.ask(question)
    if (answer.is !== 'learnt') return
    learnt.value = answer.list
    drop(answer.gone)
  }
  async function load() {
    const [kept] = await Promise.all([keptApi.list(KIND), document.ready()])
    ask({ ask: 'knows', kept: kept.map((one) => one.document) })
  }
  function learn(what: Moved) {
    learning.value = isSame(learning.value, what) ? undefined : what
    ask({ ask: 'learn', what: learning.value ?? null })
  }
  const forget = (what: Moved) => ask({ ask: 'forget', what })
  const wordsOf = (what: Moved) => {
    const found = learnt.value.find((known) => isSame(known.moves, what))
    return found ? `by ${nameOf(found.controller)}` : ''
  }

  // a turn of a knob is one step of undo, however many messages it sends; of those that come between two frames only the last counts
  const turning = new Map<number, { gesture: number; timer: number }>()
  const places = new Map<number, { address: Address; place: number }>()
  let frame = 0
  function move() {
    frame = 0
    places.forEach(({ address, place }, controller) => {
      const under = turning.get(controller)
      const gesture = under?.gesture ?? document.beginGesture()
      window.clearTimeout(under?.timer)
      const timer = window.setTimeout(() => {
        turning.delete(controller)
        if (turning.size === 0) document.endGesture()
      }, REST_MS)
      turning.set(controller, { gesture, timer })
      document.byHand({ of: 'value', address }, { ask: 'place', address, place, gesture })
      document.refusal = ''
    })
    places.clear()
  }
  /** All changes of the tempo since the clock started are one step. */
  let beating = 0
  function follow(bpm: number) {
    const tempo = document.value('audition.tempo_bpm')
    if (!tempo) return
    beating ||= document.beginGesture()
    document.endGesture()
    document.alter({ ask: 'edit', edit: { do: 'set_value', address: tempo.address, value: bpm }, units: [], gesture: beating })
    document.refusal = ''
  }
  const go = (at: number | null) => document.edit({ do: 'switch_articulation', at })

  /** Does what is meant; gives what is to be heard of it. */
  function follows(meant: Meant): Message[] {
    if (meant.is === 'play') return [meant.message]
    if (meant.is === 'place') {
      places.set(meant.controller, meant)
      frame ||= window.requestAnimationFrame(move)
    } else if (meant.is === 'learnt') {
      learning.value = undefined
      learnt.value = meant.list
      void keptApi.keep(KIND, nameOf(meant.learnt.controller), JSON.stringify(meant.learnt)).catch((error: Error) => messages.add({ severity: 'error', summary: 'Not kept', detail: error.message, life: 6000 }))
      drop(meant.gone)
    } else if (meant.is === 'switch') go(meant.at)
    else if (meant.is === 'tempo') follow(meant.bpm)
    else if (meant.is === 'start') {
      beating = 0
      playing.play(undefined, meant.at_beats ?? 'left')
    } else if (meant.is === 'stop') playing.stop()
    else messages.add({ severity: 'info', summary: 'Controller', detail: meant.words, life: 4000 })
    return []
  }
  function byHand(question: Question) {
    const answer = document.ask(question)
    return answer.is === 'meant' ? { heard: answer.meant.flatMap(follows), held: answer.held, pedal: answer.pedal } : undefined
  }
  playing.intercept({
    take: (way, bytes, timeMs, touch) => byHand({ ask: 'take', way, bytes, time_ms: timeMs, touch }),
    letGo: (ways) => byHand({ ask: 'let_go', ways }),
  })
  void load().catch(() => {})
  return { learnt, learning, learn, forget, wordsOf, go }
})
