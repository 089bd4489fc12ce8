/** What may be added or connected where, as the core offers it, as a menu. */
import type { MenuItem } from 'primevue/menuitem'
import { computed, type ComputedRef } from 'vue'

import type { OfferKind } from '../../engine/generated/OfferKind'
import { useDocument } from '../../stores/document'

export function useOffers(kind: OfferKind, unit: () => number | null): ComputedRef<MenuItem[]> {
  const document = useDocument()
  return computed<MenuItem[]>((before) => {
    // while the hand moves a value there is nothing else to be had, and no menu is open
    if (document.gesture !== 0 && before) return before
    // another one at every change
    const answer = document.change > 0 && document.view ? document.ask({ ask: 'offers', kind, unit: unit() }) : undefined
    if (answer?.is !== 'offers') return []
    return answer.groups.map(({ title, items }) => {
      const entries = items.map(({ label, edit }) => ({ label, command: () => void document.edit(edit) }))
      return title ? { label: title, items: entries } : entries
    }).flat()
  })
}
