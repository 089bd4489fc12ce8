/** Keys that select and change strips from wherever the focus is, outside of fields. */
import type { Ref } from 'vue'

import { isCommand, useShortcuts } from './useShortcuts'
import { useClip } from './useClip'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'

/** `add` adds a modulator for what is selected; `ofSources` says that sources of movement are meant. */
export function useSelecting(add: () => void, ofSources: Ref<boolean>, ofEffects: Ref<boolean>) {
  const document = useDocument()
  const finish = useFinish()
  const { copied, copy } = useClip('effects')
  /** The same keys, where effects are selected. */
  function effect(event: KeyboardEvent, digit: number | undefined): boolean {
    const id = finish.selected
    const step = ({ ArrowDown: 1, ArrowUp: -1 } as const)[event.key as 'ArrowDown' | 'ArrowUp'] as -1 | 1 | undefined
    const letter = event.key.toLowerCase()
    if (event.key === 'Escape') finish.pick(null)
    else if (isCommand(event) && letter === 'v' && copied.value) document.alter({ ask: 'paste_effects', chain: finish.chain?.id ?? 'common', at: null, text: copied.value })
    else if (digit !== undefined && !isCommand(event) && !event.altKey) {
      if (!finish.chains[digit - 1]) return false
      finish.pick(finish.chains[digit - 1].id)
    } else if (id === null && step === undefined) return false
    else if (isCommand(event) && letter === 'd' && id !== null) document.edit({ do: 'duplicate_effect', effect: id })
    else if (isCommand(event) && letter === 'c' && id !== null) {
      const answer = document.ask({ ask: 'copy_effects', effects: [id] })
      if (answer.is === 'text') copy(answer.text)
    } else if (isCommand(event)) return false
    else if (step !== undefined && event.altKey && id !== null) finish.step(id, step)
    else if (event.altKey) return false
    else if (step !== undefined) finish.selectNext(step)
    else if (event.key === 'Delete' && id !== null) document.edit({ do: 'remove_effect', effect: id })
    else return false
    return true
  }
  /** The same keys, where sources are selected. */
  function source(event: KeyboardEvent, digit: number | undefined): boolean {
    const sources = document.view?.sources ?? []
    const at = sources.findIndex(({ id }) => id === document.source)
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
    if (event.key === 'Escape') document.source = null
    else if (isCommand(event) && event.key.toLowerCase() === 'd' && document.source !== null) document.edit({ do: 'duplicate_source', source: document.source })
    else if (isCommand(event) || event.altKey) return false
    else if (digit !== undefined) {
      if (!sources[digit - 1]) return false
      document.source = sources[digit - 1].id
    } else if (event.key === 'Delete' && document.source !== null) {
      document.edit({ do: 'remove_source', source: document.source })
      document.source = sources[at + 1]?.id ?? sources[at - 1]?.id ?? null
    } else if (step !== undefined && event.target instanceof Element && event.target.closest('.list')) document.source = sources[Math.max(0, Math.min(sources.length - 1, at + step))]?.id ?? null
    else return false
    return true
  }
  useShortcuts({
    down(event) {
      const strips = document.view?.strips ?? []
      const digit = /^Digit([1-9])$/.exec(event.code)
      if (ofEffects.value) return effect(event, digit ? Number(digit[1]) : undefined)
      if (ofSources.value) return source(event, digit ? Number(digit[1]) : undefined)
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
