/** Two states of the patch: flip between them while a note sounds, at matched loudness if wished. */
import { useStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import { bench, Superseded } from '../engine/bench'
import { useDocument } from '../stores/document'
import { usePlaying } from '../stores/playing'

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

  /** The other state seldom changes while this one is edited. */
  let known = { text: '', lufs: 0 }
  /** Loudness of both; nothing if something newer was asked for meanwhile. */
  async function measure(here: string, there: string): Promise<[number, number] | undefined> {
    try {
      if (known.text !== there) known = { text: there, lufs: await bench().loudness(there, 'other') }
      return [await bench().loudness(here, 'this'), known.lufs]
    } catch (error) {
      if (error instanceof Superseded) return undefined
      throw error
    }
  }

  async function match() {
    const mine = ++turn
    const other = matched.value && hasOther.value ? document.ask({ ask: 'other_text' }) : undefined
    let gain = 1
    if (other?.is !== 'text') {
      lowered.value = 0
    } else {
      const measured = await measure(document.text(), other.text)
      if (mine !== turn || !measured) return
      const [here_lufs, there_lufs] = measured
      const answer = document.ask({ ask: 'match', here_lufs, there_lufs })
      if (answer.is === 'match') ({ gain, lowered_db: lowered.value } = answer)
    }
    playing.matched = gain
    playing.setGain(gain)
  }
  /** Quiet time before loudness is measured: short after flipping, longer while something is edited, in milliseconds. */
  const FLIPPED_MS = 60
  const EDITED_MS = 250
  let timer = 0
  watch(
    () => [document.change, matched.value, hasOther.value, slot.value] as const,
    (now, before) => {
      window.clearTimeout(timer)
      const flipped = now[3] !== before[3] || now[1] !== before[1]
      timer = window.setTimeout(() => void match(), !hasOther.value ? 0 : flipped ? FLIPPED_MS : EDITED_MS)
    },
  )
  return { slot, hasOther, matched, lowered, flip, copy }
}
