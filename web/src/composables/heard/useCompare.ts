/** Two states of the patch: flip between them while a note sounds, at matched loudness if wished. */
import { useStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import { workers, Superseded } from '../../engine/workers'
import type { Listening } from '../../engine/generated/Listening'
import { useDocument } from '../../stores/document'
import { usePlaying } from '../../stores/playing'

export function useCompare() {
  const document = useDocument()
  const playing = usePlaying()
  const matched = useStorage('zolvik-matched', true)
  const slot = computed(() => document.view?.slot ?? 'a')
  const hasOther = computed(() => document.view?.has_other ?? false)
  /** How far this state is turned down to be as loud as the other, in decibels. */
  const lowered = ref(0)
  let turn = 0

  const flip = () => document.edit({ do: 'flip' })
  const copy = () => document.edit({ do: 'copy_to_other' })

  /** Loudness of both as they are heard; nothing if something newer was asked for meanwhile. */
  async function measure(listening: Listening): Promise<[number, number] | undefined> {
    try {
      return await Promise.all([workers().loudness(document.sounding(), listening, 'this'), workers().loudness(document.sounding(true), listening, 'other')])
    } catch (error) {
      if (error instanceof Superseded) return undefined
      throw error
    }
  }

  async function match() {
    const mine = ++turn
    let gain = 1
    const listening = document.view?.listening
    if (!matched.value || !hasOther.value || !listening) {
      lowered.value = 0
    } else {
      const measured = await measure(listening)
      if (mine !== turn || !measured) return
      const [here_lufs, there_lufs] = measured
      const answer = document.ask({ ask: 'match', here_lufs, there_lufs })
      if (answer.is === 'match') ({ gain, lowered_db: lowered.value } = answer)
    }
    playing.matched = gain
  }
  /** Quiet time before loudness is measured: short after flipping, longer while something is edited, in milliseconds. */
  const FLIPPED_MS = 60
  const EDITED_MS = 250
  let timer = 0
  watch(
    () => [document.change, matched.value, hasOther.value, slot.value] as const,
    (now, before) => {
      window.clearTimeout(timer)
      // what is left out for a moment changes neither state; once it is back this is asked again
      if (playing.isWithout) return
      const flipped = now[3] !== before[3] || now[1] !== before[1]
      timer = window.setTimeout(() => void match(), !hasOther.value ? 0 : flipped ? FLIPPED_MS : EDITED_MS)
    },
  )
  return { slot, hasOther, matched, lowered, flip, copy }
}
