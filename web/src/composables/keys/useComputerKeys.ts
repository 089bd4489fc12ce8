/** The computer keyboard as two octaves, by place of the keys, not by letter. */
import { computed, onScopeDispose, readonly, ref, type Ref } from 'vue'

import { useShortcuts } from './useShortcuts'
import { useDocument } from '../../stores/document'
import { COMPUTER, usePlaying } from '../../stores/playing'

const LOWER = ['KeyZ', 'KeyS', 'KeyX', 'KeyD', 'KeyC', 'KeyV', 'KeyG', 'KeyB', 'KeyH', 'KeyN', 'KeyJ', 'KeyM']
/** Steps above the lower row; its black keys are those that select strips. */
const UPPER: Record<string, number> = { KeyQ: 12, KeyW: 14, KeyE: 16, KeyR: 17, KeyT: 19, KeyY: 21, KeyU: 23, KeyI: 24 }

export interface UseComputerKeysReturn {
  /** Key of the lowest letter. */
  base: Readonly<Ref<number>>
  shiftOctave: (by: number) => void
}

export function useComputerKeys(options: { velocity: () => number }): UseComputerKeysReturn {
  const playing = usePlaying()
  const document = useDocument()
  const rules = computed(() => document.rules?.keys)
  const moved = ref(0)
  const base = computed(() => (rules.value?.base ?? 0) + moved.value)
  const down = new Map<string, number>()

  function shiftOctave(by: number) {
    const keys = rules.value
    if (keys) moved.value = Math.max(keys.lowest, Math.min(keys.highest, base.value + keys.octave * by)) - keys.base
  }

  useShortcuts({
    down(event) {
      if (event.ctrlKey || event.metaKey || event.altKey) return
      if (event.code === 'Minus') shiftOctave(-1)
      if (event.code === 'Equal') shiftOctave(1)
      const step = LOWER.includes(event.code) ? LOWER.indexOf(event.code) : UPPER[event.code]
      if (step === undefined || event.repeat || down.has(event.code)) return
      const key = base.value + step
      if (key > 127) return
      down.set(event.code, key)
      playing.press(COMPUTER, key, options.velocity())
    },
    up(event) {
      const key = down.get(event.code)
      if (key === undefined) return
      down.delete(event.code)
      playing.release(COMPUTER, key)
    },
    lost: () => down.clear(),
  })
  onScopeDispose(() => down.forEach((key) => playing.release(COMPUTER, key)))
  return { base: readonly(base), shiftOctave }
}
