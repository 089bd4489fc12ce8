/** Drawing a route: from a strip's number onto another strip or the output line. */
import { computed, shallowRef, type ComputedRef, type Ref, type ShallowRef } from 'vue'

import { useGesture } from './useGesture'
import type { StripView } from '../../engine/generated/StripView'
import { useDocument } from '../../stores/document'

/** What lies under the wire's end. */
export type Onto = number | 'output' | null

export interface Wire {
  from: StripView
  x: number
  y: number
  over: Onto
}

/** Pixels before a press is the begin of a wire. */
const SLACK_PX = 6

export interface UseWireReturn {
  wire: Readonly<ShallowRef<Wire | undefined>>
  /** What letting go would do, in words. */
  hint: ComputedRef<string>
  begin: (event: PointerEvent, strip: StripView) => void
}

/** `under` tells what lies at a place, in pixels from the rows' corner. */
export function useWire(rows: Ref<HTMLElement | undefined>, under: (x: number, y: number) => Onto): UseWireReturn {
  const document = useDocument()
  const wire = shallowRef<Wire>()
  const { take } = useGesture<StripView>({
    slackPx: SLACK_PX,
    edits: false,
    move({ what: from }, event) {
      const box = rows.value?.getBoundingClientRect()
      if (!box) return
      const [x, y] = [event.clientX - box.left, event.clientY - box.top]
      wire.value = { from, x, y, over: under(x, y) }
    },
    end({ what: { id } }, event, kept) {
      const over = wire.value?.over ?? null
      wire.value = undefined
      // with Shift it changes its role instead of getting one more route
      if (kept && event && over !== null) document.alter({ ask: 'drop', unit: id, onto: over === 'output' ? null : over, only: event.shiftKey })
    },
  })
  function begin(event: PointerEvent, strip: StripView) {
    if (!document.units.includes(strip.id)) document.select(strip.id)
    take(event, strip)
  }
  const hint = computed(() => {
    const drawn = wire.value
    if (!drawn || drawn.over === null) return ''
    const answer = document.ask({ ask: 'drop_words', unit: drawn.from.id, onto: drawn.over === 'output' ? null : drawn.over })
    return answer.is === 'text' ? answer.text : ''
  })
  return { wire, hint, begin }
}
