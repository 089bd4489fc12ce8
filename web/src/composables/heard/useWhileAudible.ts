/** What is drawn again and again of the sound: only while there is one, so that a silent page rests. */
import { useRafFn } from '@vueuse/core'
import { watch } from 'vue'

import { useDocument } from '../../stores/document'
import { usePlaying } from '../../stores/playing'

/** Times a second; fewer while a hand moves something, as that has the page then. */
const OFTEN = { rests: 30, moves: 15 }

/** How often what is heard is drawn, a second. */
export function useOften(): () => number {
  const document = useDocument()
  return () => (document.gesture === 0 ? OFTEN.rests : OFTEN.moves)
}

/** Calls `draw` some 30 times a second while something is heard, and once more when it has ended. */
export function useWhileAudible(draw: () => void): void {
  const playing = usePlaying()
  const { pause, resume } = useRafFn(draw, { fpsLimit: useOften(), immediate: false })
  watch(
    () => playing.audible,
    (audible) => {
      if (audible) return resume()
      pause()
      draw()
    },
    { immediate: true },
  )
}
