/** Controllers: which knob moves which macro or value, learnt once for this installation; keys and programs that switch articulations. */
import { defineStore } from 'pinia'
import { ref } from 'vue'

import { keptApi } from '../engine/kept'
import type { Address } from '../engine/generated/Address'
import { useDocument } from './document'
import { useMessages } from './messages'
import { usePlaying, type Message } from './playing'

/** What a controller moves: the macro in a slot, or a value. */
export type Moved = number | Address
interface Learnt { controller: number; moves: Moved }

/** Quiet time after which a turn of a knob is over, in milliseconds. */
const REST_MS = 400
const KIND = 'learnt'

export const useControllers = defineStore('controllers', () => {
  const document = useDocument()
  const playing = usePlaying()
  const messages = useMessages()
  const learnt = ref<Learnt[]>([])
  /** What the next controller that is moved is to move. */
  const learning = ref<Moved>()
  const isSame = (a: Moved | undefined, b: Moved) => JSON.stringify(a) === JSON.stringify(b)

  async function load() {
    const kept = await keptApi.list(KIND)
    learnt.value = kept.flatMap(({ document: text }) => {
      try {
        return [JSON.parse(text) as Learnt]
      } catch {
        return []
      }
    })
  }
  function learn(what: Moved) {
    learning.value = isSame(learning.value, what) ? undefined : what
  }
  function remember(controller: number, moves: Moved) {
    const gone = learnt.value.filter((known) => known.controller !== controller && isSame(known.moves, moves))
    learnt.value = [...learnt.value.filter((known) => known.controller !== controller && !isSame(known.moves, moves)), { controller, moves }]
    void keptApi.keep(KIND, `CC ${controller}`, JSON.stringify({ controller, moves })).catch((error: Error) => messages.add({ severity: 'error', summary: 'Not kept', detail: error.message, life: 6000 }))
    gone.forEach((known) => void keptApi.forget(KIND, `CC ${known.controller}`).catch(() => {}))
  }
  function forget(what: Moved) {
    learnt.value.filter((known) => isSame(known.moves, what)).forEach((known) => void keptApi.forget(KIND, `CC ${known.controller}`).catch(() => {}))
    learnt.value = learnt.value.filter((known) => !isSame(known.moves, what))
  }
  const wordsOf = (what: Moved) => {
    const found = learnt.value.find((known) => isSame(known.moves, what))
    return found ? `by CC ${found.controller}` : ''
  }

  // a turn of a knob is one step of undo, however many messages it sends; of those that come between two frames only the last counts
  const turning = new Map<number, { gesture: number; timer: number }>()
  const coarse = new Map<number, number>()
  const places = new Map<number, number>()
  let frame = 0
  function move() {
    frame = 0
    places.forEach((place, controller) => {
      const found = learnt.value.find((known) => known.controller === controller)
      if (!found) return
      const address = typeof found.moves === 'number' ? document.view?.macros[found.moves]?.value.address : found.moves
      if (!address) return
      const under = turning.get(controller)
      const gesture = under?.gesture ?? document.beginGesture()
      window.clearTimeout(under?.timer)
      const timer = window.setTimeout(() => {
        turning.delete(controller)
        if (turning.size === 0) document.endGesture()
      }, REST_MS)
      turning.set(controller, { gesture, timer })
      document.alter({ ask: 'place', address, place, gesture })
      document.refusal = ''
    })
    places.clear()
  }
  function turn(controller: number, place: number) {
    places.set(controller, place)
    if (!frame) frame = window.requestAnimationFrame(move)
  }

  /** Takes what is meant here; whether it was. */
  function take([status, first, second]: Message): boolean {
    const kind = status & 0xf0
    if (kind === 0xb0) {
      const mayLearn = document.learnable.includes(first)
      if (learning.value !== undefined && mayLearn) {
        remember(first, learning.value)
        learning.value = undefined
      }
      const isKnown = (controller: number) => learnt.value.some((known) => known.controller === controller)
      if (isKnown(first)) {
        coarse.set(first, second)
        turn(first, second / 127)
        return true
      }
      // the fine part of one with 14 bits
      const pair = first - 32
      const high = coarse.get(pair)
      if (pair >= 0 && pair < 32 && high !== undefined && isKnown(pair)) {
        turn(pair, (high * 128 + second) / 16383)
        return true
      }
    }
    const articulations = document.view?.articulations ?? []
    if (kind === 0x90 && second > 0) {
      const at = articulations.findIndex(({ key }) => key === first)
      if (at >= 0) {
        go(document.view?.articulation === at ? null : at)
        return true
      }
    }
    if (kind === 0x80 || kind === 0x90) return articulations.some(({ key }) => key === first)
    if (kind === 0xc0) {
      if (first <= articulations.length) go(first === 0 ? null : first - 1)
      else messages.add({ severity: 'info', summary: 'Program change', detail: `There is no articulation ${first}; there are ${articulations.length}.`, life: 3000 })
      return true
    }
    return false
  }
  const go = (at: number | null) => document.edit({ do: 'switch_articulation', at })
  playing.intercept(take)
  void load().catch(() => {})
  return { learnt, learning, learn, forget, wordsOf, take, go }
})
