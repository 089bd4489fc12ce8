/** The two ends of a macro that is pointed at, as pictures to be laid over the one there is. */
import { useTimeoutFn } from '@vueuse/core'
import { watch } from 'vue'

import { workers, Superseded } from '../../engine/workers'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'
import { useSettings } from '../../stores/settings'

/** A hand that only passes by is not meant, in milliseconds. */
const RESTS_MS = 250

export function useGhosts() {
  const document = useDocument()
  const moving = useMoving()
  const settings = useSettings()
  let turn = 0
  async function draw() {
    const source = moving.pointed
    const mine = ++turn
    const view = document.view
    if (source === undefined || !view) return
    const end = async (high: boolean) => {
      const answer = document.ask({ ask: 'at_end', source, high })
      if (answer.is !== 'text') throw new Superseded()
      return workers().ghost(answer.text, view.listening, settings.exponent, settings.showsPhrase, high ? 'high' : 'low', settings.span)
    }
    try {
      const [low, high] = [await end(false), await end(true)]
      if (mine === turn && moving.pointed === source) moving.ghosts = { low, high }
    } catch (error) {
      if (!(error instanceof Superseded)) document.refusal = ''
    }
  }
  const rest = useTimeoutFn(() => void draw(), RESTS_MS, { immediate: false })
  watch(
    () => moving.pointed,
    (source) => {
      turn++
      moving.ghosts = undefined
      if (source === undefined) rest.stop()
      else rest.start()
    },
  )
}
