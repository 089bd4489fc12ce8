/** What is muted, soloed or bypassed for now, without a change of the document. */
import { computed, type ShallowRef } from 'vue'

import type { DocumentView } from '../engine/generated/DocumentView'
import type { Listening } from '../engine/generated/Listening'
import { EVERYTHING } from '../engine/listening'
import { toggled } from './selection'

export function makeHearing(view: ShallowRef<DocumentView | undefined>, listen: (listening: Listening) => unknown) {
  /** Mutes, solos or bypasses for now, or lets it be again. */
  function toggle<L extends Exclude<keyof Listening, 'up_to' | 'band_alone'>>(list: L, id: Listening[L][number]) {
    if (view.value) listen({ ...view.value.listening, [list]: toggled<Listening[L][number]>(view.value.listening[list], id) })
  }
  /** Mutes or solos several at once, or lets them all be again. */
  function toggleAll(list: 'muted' | 'soloed', units: number[], on: boolean) {
    if (!view.value) return
    const rest = view.value.listening[list].filter((id) => !units.includes(id))
    listen({ ...view.value.listening, [list]: on ? [...rest, ...units] : rest })
  }
  const hearAll = () => listen(EVERYTHING)

  const isListening = computed(() => {
    const now = view.value?.listening
    return now !== undefined && Object.values(now).some((list) => (Array.isArray(list) ? list.length > 0 : list !== null))
  })

  return { toggle, toggleAll, hearAll, isListening }
}
