/** Where strips and group bars lie, from above. The strips of a folded group share the place of its bar. */
import { computed, type ComputedRef } from 'vue'

import type { DocumentView } from '../engine/generated/DocumentView'
import { useLow } from './useLow'
import { share } from '../engine/told'
import { useDocument } from '../stores/document'

/** Heights of a strip and of a selected one; on a low window a little less. */
export const stripPx = (low: boolean) => (low ? { plain: 42, selected: 64 } : { plain: 48, selected: 70 })
const BAR_PX = 28

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

export function useStripLayout(view: () => DocumentView): ComputedRef<StripLayout> {
  const document = useDocument()
  const low = useLow()
  return computed<StripLayout>((before) => {
    const { plain, selected } = stripPx(low.value)
    const { strips, groups } = view()
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
