/** One hand on one thing: a drag begins after a few pixels, is one step of undo, and ends however the pointer goes. Escape takes it back, and so does losing the pointer. */
import { getCurrentScope, onScopeDispose, shallowReadonly, shallowRef, type ShallowRef } from 'vue'

import { workers } from '../../engine/workers'
import { useDocument } from '../../stores/document'

export interface Drag<T> {
  /** What was taken hold of. */
  what: T
  /** Where it was taken hold of, in pixels of the page. */
  x: number
  y: number
  /** Number of the gesture, for edits that are one step. */
  gesture: number
}

export interface GestureOptions<T> {
  move: (drag: Drag<T>, event: PointerEvent) => void
  /** `kept` is false where it was broken off. */
  end?: (drag: Drag<T>, event: PointerEvent | undefined, kept: boolean) => void
  /** Pixels before it counts as a drag; 0 begins at once. */
  slackPx?: number
  /** Whether it edits the document. */
  edits?: boolean
}

export interface UseGestureReturn<T> {
  /** Takes hold of something; for the thing's `pointerdown`. `clicked` is called where it was let go without a drag. */
  take: (event: PointerEvent, what: T, clicked?: () => void) => void
  /** What is dragged now. */
  dragged: Readonly<ShallowRef<Drag<T> | undefined>>
}

/** Pixels a hand may tremble while it only clicks. */
const SLACK_PX = 3

export function useGesture<T>({ move, end, slackPx = SLACK_PX, edits = true }: GestureOptions<T>): UseGestureReturn<T> {
  const document = useDocument()
  const dragged = shallowRef<Drag<T>>()
  let held: { drag: Drag<T>; pointer: number; release: AbortController; clicked?: () => void } | undefined

  function take(event: PointerEvent, what: T, clicked?: () => void) {
    if (event.button !== 0 || held) return
    const release = new AbortController()
    held = { drag: { what, x: event.clientX, y: event.clientY, gesture: 0 }, pointer: event.pointerId, release, clicked }
    const target = event.currentTarget
    if (target instanceof Element) target.setPointerCapture(event.pointerId)
    // on the window, so that a thing that is drawn anew meanwhile does not lose the hand
    const { signal } = release
    window.addEventListener('pointermove', moved, { signal })
    window.addEventListener('pointerup', (up) => up.pointerId === held?.pointer && finish(up, true), { signal })
    window.addEventListener('pointercancel', (lost) => lost.pointerId === held?.pointer && breakOff(lost), { signal })
    // before all else: what is selected stays so
    window.addEventListener('keydown', escape, { signal, capture: true })
    if (slackPx === 0) moved(event)
  }
  function moved(event: PointerEvent) {
    if (!held || event.pointerId !== held.pointer) return
    if (!dragged.value) {
      if (Math.hypot(event.clientX - held.drag.x, event.clientY - held.drag.y) < slackPx) return
      if (edits) held.drag.gesture = document.beginGesture()
      dragged.value = held.drag
    }
    if (edits) workers().moved()
    move(held.drag, event)
  }
  function escape(key: KeyboardEvent) {
    if (key.key !== 'Escape' || !dragged.value) return
    key.preventDefault()
    key.stopPropagation()
    breakOff()
  }
  /** It was not meant: Escape says so, or the system does, as where a finger turns out to scroll. All is as it was. */
  function breakOff(event?: PointerEvent) {
    const drag = dragged.value
    finish(event, false)
    if (drag && edits) document.alter({ ask: 'take_back', gesture: drag.gesture })
  }
  function finish(event: PointerEvent | undefined, kept: boolean) {
    const drag = dragged.value
    const clicked = held?.clicked
    held?.release.abort()
    held = undefined
    dragged.value = undefined
    if (!drag) {
      if (kept && event) clicked?.()
      return
    }
    if (edits) document.endGesture()
    end?.(drag, event, kept)
  }
  if (getCurrentScope()) onScopeDispose(() => finish(undefined, false))
  return { take, dragged: shallowReadonly(dragged) }
}

/** Quiet time after which turning the wheel is over, in milliseconds. */
const WHEEL_REST_MS = 300

/** The wheel as one gesture: as long as it keeps turning it is one step of undo. */
export function useWheelGesture(turn: (event: WheelEvent, gesture: number) => void): (event: WheelEvent) => void {
  const document = useDocument()
  let gesture = 0
  let timer = 0
  return (event) => {
    if (!gesture) gesture = document.beginGesture()
    turn(event, gesture)
    window.clearTimeout(timer)
    timer = window.setTimeout(() => {
      gesture = 0
      document.endGesture()
    }, WHEEL_REST_MS)
  }
}
