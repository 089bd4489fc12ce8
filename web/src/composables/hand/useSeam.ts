/** The seam between strips and result: the result takes what few strips leave free, or what the hand gives it. */
import { computed, type ComputedRef, type Ref } from 'vue'

import { useGesture } from './useGesture'
import { useLow } from '../screen/useLow'
import { stripPx } from '../screen/useStripLayout'
import { useDocument } from '../../stores/document'
import { useSettings } from '../../stores/settings'

const FREE_PX = [204, 320] as const
/** On a low window, as a share of the height. */
const LOW_SHARE = 0.27
const BY_HAND_PX = [120, 420] as const
/** Heights of a group's bar, and of what stands below the strips and around. */
const BAR_PX = 28
const BELOW_PX = 32
const AROUND_PX = 84

const within = ([least, most]: readonly [number, number], px: number) => Math.max(least, Math.min(most, px))

export function useSeam(height: Ref<number>): { resultPx: ComputedRef<number>; take: (event: PointerEvent) => void; free: () => void } {
  const document = useDocument()
  const settings = useSettings()
  const low = useLow()
  const resultPx = computed(() => {
    if (settings.resultHeight > 0) return settings.resultHeight
    const groups = document.view?.groups ?? []
    const folded = groups.filter((group) => group.folded).reduce((sum, group) => sum + group.units.length, 0)
    const strips = (document.view?.strips.length ?? 0) - folded
    const { plain, selected } = stripPx(low.value)
    const content = strips * plain + groups.length * BAR_PX + (document.selectedStrip ? selected - plain : 0) + BELOW_PX
    const least = low.value ? height.value * LOW_SHARE : FREE_PX[0]
    return Math.round(within([Math.max(96, least), FREE_PX[1]], height.value - AROUND_PX - content))
  })
  const seam = useGesture<number>({
    edits: false,
    move: ({ what: before, y }, event) => (settings.resultHeight = within(BY_HAND_PX, before + y - event.clientY)),
  })
  return { resultPx, take: (event) => seam.take(event, resultPx.value), free: () => (settings.resultHeight = 0) }
}
