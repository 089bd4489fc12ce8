/** What is playing now, as a path over the frequencies of the result; empty while nothing sounds. */
import { ref, type Ref } from 'vue'

import { useWhileAudible } from './useWhileAudible'
import { shareToHz } from '../../draw/axis'
import { dbToX, rowsPath, SPAN_DB } from '../../draw/result'
import { LIVE } from '../../engine/sound'
import { usePlaying } from '../../stores/playing'
import { useSettings } from '../../stores/settings'

const ROWS = 150

export function useLiveSpectrum(height: () => number): Readonly<Ref<string>> {
  const playing = usePlaying()
  const settings = useSettings()
  const looks = LIVE.map(({ bins }) => new Float32Array(bins))
  const rows = new Float32Array(ROWS)
  const path = ref('')
  const binHz = LIVE.map(() => 0)
  let turn = 0
  useWhileAudible(() => {
    if (!playing.audible) {
      turn = 0
      path.value = ''
      return
    }
    LIVE.forEach(({ oneIn }, which) => {
      if (turn % oneIn === 0) binHz[which] = playing.spectrum(which, looks[which])
    })
    turn++
    const hzOf = (row: number) => shareToHz(row / ROWS, settings.span)
    let loudest = -Infinity
    for (let row = 0; row < ROWS && binHz[0] > 0; row++) {
      const [from, to] = [hzOf(row), hzOf(row + 1)]
      // long windows below, short ones above
      const which = LIVE.findLastIndex((look) => from >= look.fromHz)
      const bins = looks[which]
      let db = bins[Math.round(from / binHz[which])]
      for (let bin = Math.ceil(from / binHz[which]); bin < to / binHz[which]; bin++) db = Math.max(db, bins[bin])
      rows[row] = db
      loudest = Math.max(loudest, db)
    }
    path.value = loudest > -SPAN_DB ? rowsPath(rows, height(), dbToX) : ''
  })
  return path
}
