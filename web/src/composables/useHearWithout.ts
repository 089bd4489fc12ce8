/** One held key lets hear without what is selected: strips, or in Move a source. */
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useShortcuts } from './useShortcuts'
import { useDocument } from '../stores/document'

export function useHearWithout() {
  const document = useDocument()
  const route = useRoute()
  const chosen = computed(() => (route.name === 'move' ? (document.source === null ? [] : [document.source]) : document.units))
  let without = false
  function hear(units: number[]) {
    without = units.length > 0
    document.ask({ ask: 'hear_without', units })
  }
  const again = () => {
    if (without) hear([])
  }
  useShortcuts({
    down(event) {
      if (event.code !== 'KeyO' || event.ctrlKey || event.metaKey || event.altKey || event.repeat || without || chosen.value.length === 0) return
      hear(chosen.value)
    },
    up: (event) => event.code === 'KeyO' && again(),
    lost: again,
  })
}
