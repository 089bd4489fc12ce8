/** One held key lets hear without the selected strips. */
import { useShortcuts } from './useShortcuts'
import { useDocument } from '../stores/document'

export function useHearWithout() {
  const document = useDocument()
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
      if (event.code !== 'KeyO' || event.ctrlKey || event.metaKey || event.altKey || event.repeat || without || document.units.length === 0) return
      hear(document.units)
    },
    up: (event) => event.code === 'KeyO' && again(),
    lost: again,
  })
}
