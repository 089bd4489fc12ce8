/** Going to a value: its strip is selected, and its field gets the focus. */
import { nextTick } from 'vue'

import type { Hit } from '../engine/generated/Hit'
import { useDocument } from '../stores/document'

export function useReveal(): (hit: Hit) => Promise<void> {
  const document = useDocument()
  return async ({ unit, param }) => {
    document.select(unit)
    await nextTick()
    const fields = [...window.document.querySelectorAll<HTMLElement>('[role=spinbutton]')]
    const field = fields.find((each) => param !== null && each.dataset.param === param)
    field?.scrollIntoView({ block: 'center' })
    field?.focus()
  }
}
