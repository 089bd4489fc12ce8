/** The seam between strips and result: the result takes what few strips leave free, or what the hand gives it. */
import { computed, type ComputedRef, type Ref } from 'vue'

import { useGesture } from './useGesture'
import { useDocument } from '../stores/document'
import { useSettings } from '../stores/settings'

const FREE_PX = [204, 340] as const
const BY_HAND_PX = [120, 420] as const
/** Heights of a strip, a group's bar, what a selected strip has more, and what stands below the strips and around. */
const STRIP_PX = 48
const BAR_PX = 28
const SELECTED_PX = 22
const BELOW_PX = 58
const AROUND_PX = 54

const within = ([least, most]: readonly [number, number], px: number) => Math.max(least, Math.min(most, px))

export function useSeam(height: Ref<number>): { resultPx: ComputedRef<number>; take: (event: PointerEvent) => void; free: () => void } {
  const document = useDocument()
  const settings = useSettings()
  const resultPx = computed(() => {
    if (settings.resultHeight > 0) return settings.resultHeight
    const groups = document.view?.groups ?? []
    const folded = groups.filter((group) => group.folded).reduce((sum, group) => sum + group.units.length, 0)
    const strips = (document.view?.strips.length ?? 0) - folded
    const content = strips * STRIP_PX + groups.length * BAR_PX + (document.selectedStrip ? SELECTED_PX : 0) + BELOW_PX
    return within(FREE_PX, height.value - AROUND_PX - content)
  })
  const seam = useGesture<number>({
    edits: false,
    move: ({ what: before, y }, event) => (settings.resultHeight = within(BY_HAND_PX, before + y - event.clientY)),
  })
  return { resultPx, take: (event) => seam.take(event, resultPx.value), free: () => (settings.resultHeight = 0) }
}
