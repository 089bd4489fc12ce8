/** The waves there are, as the core lists them; asked for once, and again when the patch's own tables change. */
import { shallowRef, watch, type ShallowRef } from 'vue'

import type { WaveChoice } from '../../engine/generated/WaveChoice'
import { useDocument } from '../../stores/document'

const waves = shallowRef<WaveChoice[]>([])
let listed = ''

export function useWaves(): Readonly<ShallowRef<WaveChoice[]>> {
  const document = useDocument()
  watch(
    () => document.view?.tables.map((table) => `${table.id} ${table.name}`).join(),
    (tables) => {
      if (tables === undefined || (listed === `.${tables}` && waves.value.length > 0)) return
      const answer = document.ask({ ask: 'waves' })
      if (answer.is !== 'waves') return
      waves.value = answer.waves
      listed = `.${tables}`
    },
    { immediate: true },
  )
  return waves
}
