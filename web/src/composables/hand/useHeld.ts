/** Hears without some strips or effects for as long as something is held, as loud as with them. */
import { readonly, ref, type Ref } from 'vue'

import { workers, Superseded } from '../../engine/workers'
import type { Listening } from '../../engine/generated/Listening'
import { useDocument } from '../../stores/document'
import { usePlaying } from '../../stores/playing'

export interface UseHeldReturn {
  holding: Readonly<Ref<boolean>>
  press: (units: number[]) => void
  release: () => void
}

let turn = 0

export function useHeld(): UseHeldReturn {
  const document = useDocument()
  const playing = usePlaying()
  const holding = ref(false)
  function hear(units: number[]) {
    const before = document.view?.listening
    holding.value = playing.isWithout = units.length > 0
    document.ask({ ask: 'hear_without', units })
    const mine = ++turn
    if (holding.value && before) void even(before, mine)
    else playing.evened = 1
  }
  /** Brings what is heard now to the loudness there was, so that less does not pass for worse. */
  async function even(before: Listening, mine: number) {
    const text = document.sounding()
    const now = document.view?.listening ?? before
    try {
      const [here_lufs, there_lufs] = await Promise.all([workers().loudness(text, now, 'without', true), workers().loudness(text, before, 'with', true)])
      const answer = document.ask({ ask: 'match', here_lufs, there_lufs })
      if (mine === turn && holding.value && answer.is === 'match') playing.evened = answer.evened
    } catch (error) {
      if (!(error instanceof Superseded)) throw error
    }
  }
  return {
    holding: readonly(holding),
    press: (units) => {
      if (!holding.value && units.length > 0) hear(units)
    },
    release: () => {
      if (holding.value) hear([])
    },
  }
}
