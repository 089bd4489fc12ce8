/** What the core says of the selected unit beside its values, asked for anew after every change. */
import { shallowRef, watch, type ShallowRef } from 'vue'

import type { InspectView } from '../engine/generated/InspectView'
import { useDocument } from '../stores/document'

export function useInspect(unit: () => number): Readonly<ShallowRef<InspectView | undefined>> {
  const document = useDocument()
  const view = shallowRef<InspectView>()
  watch(
    () => [unit(), document.change],
    () => {
      const answer = document.ask({ ask: 'inspect', unit: unit() })
      view.value = answer.is === 'inspected' ? answer.view : undefined
    },
    { immediate: true },
  )
  return view
}
