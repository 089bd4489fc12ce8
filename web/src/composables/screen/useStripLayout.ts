/** Where strips and group bars lie, from above. The strips of a folded group share the place of its bar. */
import { computed, type ComputedRef } from 'vue'

import type { DocumentView } from '../../engine/generated/DocumentView'
import { useLow } from './useLow'
import { share } from '../../engine/told'
import { useDocument } from '../../stores/document'

/** Heights of a strip and of a selected one; on a low window a little less. */
export const stripPx = (low: boolean) => (low ? { plain: 42, selected: 64 } : { plain: 48, selected: 70 })
const BAR_PX = 28
/** On a high window strips grow into what they leave free, up to so high. */
const ROOMY_PX = 420
const HIGHEST_PX = 120

export interface StripBox {
  top: number
  height: number
  hidden: boolean
  grouped: boolean
}

export interface StripLayout {
  /** One for each strip. */
  boxes: StripBox[]
  /** Top of each group's bar. */
  bars: Record<number, number>
  end: number
}

export function useStripLayout(view: () => DocumentView, roomPx: () => number): ComputedRef<StripLayout> {
  const document = useDocument()
  const low = useLow()
  return computed<StripLayout>((before) => {
    const { strips, groups } = view()
    const px = stripPx(low.value)
    // as if one were selected, so that nothing moves when one is
    const folded = groups.reduce((sum, group) => sum + (group.folded ? group.units.length : 0), 0)
    const count = Math.max(1, strips.length - folded)
    const free = roomPx() - count * px.plain - (px.selected - px.plain) - groups.length * BAR_PX
    const more = roomPx() < ROOMY_PX ? 0 : Math.max(0, Math.min(HIGHEST_PX - px.plain, Math.floor(free / count)))
    const [plain, selected] = [px.plain + more, px.selected + more]
    let top = 0
    const bars: Record<number, number> = {}
    const boxes = strips.map((strip) => {
      const group = groups.find((g) => g.units.includes(strip.id))
      if (group && !(group.id in bars)) {
        bars[group.id] = top
        top += BAR_PX
      }
      if (group?.folded) return { top: bars[group.id] ?? 0, height: BAR_PX, hidden: true, grouped: true }
      const height = strip.id === document.selected ? selected : plain
      top += height
      return { top: top - height, height, hidden: false, grouped: group !== undefined }
    })
    return share(before, { boxes, bars, end: top })
  })
}
