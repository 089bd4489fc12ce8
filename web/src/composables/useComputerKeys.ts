/** The computer keyboard as two octaves, by place of the keys, not by letter. */
import { useEventListener } from '@vueuse/core'
import { onScopeDispose, readonly, ref, type Ref } from 'vue'

import { usePlaying } from '../stores/playing'

const LOWER = ['KeyZ', 'KeyS', 'KeyX', 'KeyD', 'KeyC', 'KeyV', 'KeyG', 'KeyB', 'KeyH', 'KeyN', 'KeyJ', 'KeyM']
const UPPER = ['KeyQ', 'Digit2', 'KeyW', 'Digit3', 'KeyE', 'KeyR', 'Digit5', 'KeyT', 'Digit6', 'KeyY', 'Digit7', 'KeyU', 'KeyI']

export interface UseComputerKeysReturn {
  /** Key of the lowest letter. */
  base: Readonly<Ref<number>>
  shiftOctave: (by: number) => void
}

/** Whether the keys are wanted for typing. */
function isTyping(target: EventTarget | null): boolean {
  // dialogs that are played to, such as the harmonics, leave the keys alone
  return target instanceof Element && target.closest('input, textarea, select, [contenteditable], [role=dialog]:not(:has([data-played])), [role=menu]') !== null
}

export function useComputerKeys(options: { velocity: () => number }): UseComputerKeysReturn {
  const playing = usePlaying()
  const base = ref(48)
  const down = new Map<string, number>()

  function shiftOctave(by: number) {
    base.value = Math.max(0, Math.min(96, base.value + 12 * by))
  }

  useEventListener(window, 'keydown', (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return
    if (event.code === 'Minus') shiftOctave(-1)
    if (event.code === 'Equal') shiftOctave(1)
    const step = LOWER.indexOf(event.code) >= 0 ? LOWER.indexOf(event.code) : UPPER.indexOf(event.code) + 12
    if (step < 12 && !LOWER.includes(event.code)) return
    const inField = event.target instanceof HTMLElement && event.target.closest('[role=spinbutton]') !== null
    if (event.repeat || down.has(event.code) || (inField && event.code.startsWith('Digit'))) return
    const key = base.value + step
    if (key > 127) return
    down.set(event.code, key)
    playing.press(key, options.velocity())
  })
  useEventListener(window, 'keyup', (event) => {
    const key = down.get(event.code)
    if (key === undefined) return
    down.delete(event.code)
    playing.release(key)
  })
  useEventListener(window, 'blur', () => down.clear())
  onScopeDispose(() => down.forEach((key) => playing.release(key)))
  return { base: readonly(base), shiftOctave }
}
