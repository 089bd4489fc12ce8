/** The cursor on the time axis: where, moved by pointer and keys; and the wheel, which spans more or less time. */
import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'

import { useGesture, useWheelGesture } from './useGesture'
import { timeToX, xToTime, type Axis } from '../../draw/axis'
import { useDocument } from '../../stores/document'

/** Pixels an arrow key moves it; an eighth of that with Shift. */
const STEP_PX = 8
/** Steps of the window's value for one turn of the wheel. */
const ZOOM_STEPS = 4

export interface UseCursorReturn {
  timeS: Ref<number>
  scrubFrom: (event: PointerEvent) => void
  key: (event: KeyboardEvent) => void
  zoom: (event: WheelEvent) => void
}

/** `plot` gives the left edge of the plots. */
export function useCursor(axis: ComputedRef<Axis>, plot: () => number | undefined): UseCursorReturn {
  const document = useDocument()
  const timeS = ref(0.4)
  const x = computed(() => timeToX(axis.value, timeS.value))
  watch(() => axis.value.windowS, (windowS) => (timeS.value = Math.min(timeS.value, windowS)))
  const { take } = useGesture<number>({
    slackPx: 0,
    edits: false,
    move: ({ what: left }, event) => (timeS.value = xToTime(axis.value, event.clientX - left)),
  })
  function scrubFrom(event: PointerEvent) {
    const left = plot()
    if (left !== undefined && event.clientX >= left && event.clientX <= left + axis.value.widthPx) take(event, left)
  }
  function key(event: KeyboardEvent) {
    const end = { Home: 0, End: axis.value.windowS }[event.key]
    if (end !== undefined) {
      event.preventDefault()
      timeS.value = end
      return
    }
    const step = { ArrowRight: STEP_PX, ArrowLeft: -STEP_PX }[event.key]
    if (!step) return
    event.preventDefault()
    timeS.value = xToTime(axis.value, x.value + (event.shiftKey ? step / 8 : step))
  }
  const zoom = useWheelGesture((event, gesture) => {
    const address = document.value('audition.window_s')?.address
    if (address) document.alter({ ask: 'nudge', address, units: [], steps: event.deltaY > 0 ? ZOOM_STEPS : -ZOOM_STEPS, fine: false, gesture })
  })
  return { timeS, scrubFrom, key, zoom }
}
