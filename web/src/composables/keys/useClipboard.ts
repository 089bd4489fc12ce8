/** Strips on the clipboard, as a line of text that can be read. */
import { useEventListener } from '@vueuse/core'

import { isTyping } from './useShortcuts'
import { useDocument } from '../../stores/document'

export function useClipboard(inBuild: () => boolean) {
  const document = useDocument()
  useEventListener(window, 'copy', (event) => {
    // marked text is copied as it is
    if (!inBuild() || isTyping(event.target) || document.selected === null || window.getSelection()?.toString()) return
    const answer = document.ask({ ask: 'copy_strips', units: document.units })
    if (answer.is !== 'text') return
    event.clipboardData?.setData('text/plain', answer.text)
    event.preventDefault()
  })
  useEventListener(window, 'paste', (event) => {
    const text = event.clipboardData?.getData('text/plain').trim()
    if (!inBuild() || isTyping(event.target) || !text) return
    document.alter({ ask: 'take_line', text, units: [] })
    event.preventDefault()
  })
}
