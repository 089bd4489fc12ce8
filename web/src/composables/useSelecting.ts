/** Keys that select and change strips from wherever the focus is, outside of fields. */
import { isCommand, useShortcuts } from './useShortcuts'
import { useDocument } from '../stores/document'

/** `add` adds a modulator for what is selected. */
export function useSelecting(add: () => void) {
  const document = useDocument()
  useShortcuts({
    down(event) {
      const strips = document.view?.strips ?? []
      const digit = /^Digit([1-9])$/.exec(event.code)
      if (event.key === 'Escape') document.select(null)
      else if (isCommand(event) && event.key.toLowerCase() === 'a') document.selectAll()
      else if (isCommand(event) && event.key.toLowerCase() === 'd' && document.selected !== null) document.edit({ do: 'duplicate_units', units: document.units })
      else if (isCommand(event) && event.key.toLowerCase() === 'g' && document.selected !== null) document.edit({ do: 'group_units', units: document.units })
      else if (event.ctrlKey || event.metaKey || event.altKey) return false
      else if (digit) {
        const id = Number(digit[1])
        if (!strips.some((strip) => strip.id === id)) return false
        document.select(id, event.shiftKey)
      } else if (event.key === 'Delete' && document.selected !== null) document.edit({ do: 'remove_unit', unit: document.selected })
      else if (event.key === 'Insert' && document.selected !== null) add()
      else return false
      return true
    },
  })
}
