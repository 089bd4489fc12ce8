/** What is playing now, as a path over the frequencies of the result; empty while nothing sounds. */
import { useRafFn } from '@vueuse/core'
import { ref, type Ref } from 'vue'

import { HIGHEST_HZ, LOWEST_HZ } from '../draw/axis'
import { dbToX, rowsPath, SPAN_DB } from '../draw/result'
import { LIVE_BINS } from '../engine/sound'
import { usePlaying } from '../stores/playing'

const ROWS = 150

export function useLiveSpectrum(height: () => number): Readonly<Ref<string>> {
  const playing = usePlaying()
  const bins = new Float32Array(LIVE_BINS)
  const rows = new Float32Array(ROWS)
  const path = ref('')
  useRafFn(() => {
    const binHz = playing.spectrum(bins)
    const from = (row: number) => (LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ) ** (row / ROWS)) / binHz
    let loudest = -Infinity
    for (let row = 0; row < ROWS && binHz > 0; row++) {
      let db = bins[Math.round(from(row))]
      for (let bin = Math.ceil(from(row)); bin < from(row + 1); bin++) db = Math.max(db, bins[bin])
      rows[row] = db
      loudest = Math.max(loudest, db)
    }
    path.value = loudest > -SPAN_DB ? rowsPath(rows, height(), dbToX) : ''
  }, { fpsLimit: 30 })
  return path
}
