/** Keys that mean something wherever the focus is, with one idea of what typing is. */
import { useEventListener } from '@vueuse/core'

/** Whether the keys are wanted for typing. Dialogs that are played to, such as the harmonics, leave the keys alone. */
export function isTyping(target: EventTarget | null): boolean {
  return target instanceof Element && target.closest('input, textarea, select, [contenteditable], [role=dialog]:not(:has([data-played])), [role=menu]') !== null
}

/** Whether Space or Enter is meant for a button: one that got its focus by the keyboard. A value that is typed into opens by Enter, and Space plays. */
export function isForButton(event: KeyboardEvent): boolean {
  if (event.code === 'Space' && event.target instanceof Element && event.target.matches('[data-typed]')) return false
  return (event.code === 'Space' || event.key === 'Enter') && event.target instanceof HTMLButtonElement && event.target.matches(':focus-visible')
}

export interface Shortcuts {
  /** Asked before all others, which then do not hear of a key that was meant here. @default false */
  first?: boolean
  /** A key went down outside of typing; true if it was meant. */
  down?: (event: KeyboardEvent) => boolean | void
  up?: (event: KeyboardEvent) => void
  /** The window lost the keyboard. */
  lost?: () => void
}

export function useShortcuts({ down, up, lost, first = false }: Shortcuts) {
  if (down) {
    useEventListener(window, 'keydown', (event) => {
      if (isTyping(event.target) || !down(event)) return
      event.preventDefault()
      if (first) event.stopImmediatePropagation()
    }, { capture: first })
  }
  if (up) useEventListener(window, 'keyup', up)
  if (lost) useEventListener(window, 'blur', lost)
}

/** Ctrl, or Command where keyboards have that. */
export const isCommand = (event: KeyboardEvent) => event.ctrlKey || event.metaKey
