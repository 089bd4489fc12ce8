/** What fields show of movement: where what they hold stands at the cursor, and the menu of what moves it. */
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

import type { Unfolded } from '../engine/workers'
import type { Address } from '../engine/generated/Address'
import type { Movable } from '../engine/generated/Movable'

export const useMoving = defineStore('moving', () => {
  const picture = shallowRef<Unfolded>()
  /** Where on the time axis the cursor stands, 0 to 1. */
  const cursorShare = ref(0)
  /** The macro that is pointed at, and how all would be at its ends. */
  const pointed = ref<number>()
  const ghosts = shallowRef<{ low: Unfolded; high: Unfolded }>()
  /** A value all of whose movers are looked at in Move. */
  const target = shallowRef<Address>()
  /** A field whose menu is open, and beside what. */
  const asked = shallowRef<{ address: Address; label: string; movable: Movable | null; base: string | null; anchor: HTMLElement }>()

  /** A curve's value at the cursor. */
  function atCursor(curve: Float32Array | undefined): number | undefined {
    if (!curve?.length) return undefined
    return curve[Math.max(0, Math.min(curve.length - 1, Math.floor(cursorShare.value * curve.length)))]
  }
  /** Where on its bar what these links move lies at the cursor. */
  const placeNow = (links: number[]) => atCursor(picture.value?.moved.get(links[0]))
  /** The source a link is looked for. */
  const linking = ref<number>()
  /** What letting go of what is dragged would do, beside the pointer. */
  const hint = shallowRef<{ x: number; y: number; words: string }>()
  return { linking, pointed, hint, ghosts, target, picture, cursorShare, asked, atCursor, placeNow }
})
