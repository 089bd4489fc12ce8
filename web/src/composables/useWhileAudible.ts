/** What is drawn again and again of the sound: only while there is one, so that a silent page rests. */
import { useRafFn } from '@vueuse/core'
import { watch } from 'vue'

import { usePlaying } from '../stores/playing'

/** Calls `draw` at most 30 times a second while something is heard, and once more when it has ended. */
export function useWhileAudible(draw: () => void): void {
  const playing = usePlaying()
  const { pause, resume } = useRafFn(draw, { fpsLimit: 30, immediate: false })
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
