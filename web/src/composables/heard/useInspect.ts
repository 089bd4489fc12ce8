/** What the core says of the selected unit beside its values, asked for anew after every change. */
import { useThrottleFn } from '@vueuse/core'
import { shallowRef, watch, type ShallowRef } from 'vue'

import type { InspectView } from '../../engine/generated/InspectView'
import { useDocument } from '../../stores/document'

/** While something is dragged it is asked for no more often than this, in milliseconds. */
const LOOK_MS = 150

export function useInspect(unit: () => number): Readonly<ShallowRef<InspectView | undefined>> {
  const document = useDocument()
  const view = shallowRef<InspectView>()
  function look() {
    const answer = document.ask({ ask: 'inspect', unit: unit() })
    const next = answer.is === 'inspected' ? answer.view : undefined
    // what is as it was is not drawn anew
    if (JSON.stringify(next) !== JSON.stringify(view.value)) view.value = next
  }
  watch(unit, look, { immediate: true })
  watch(() => document.change, useThrottleFn(look, LOOK_MS, true, true))
  return view
}
