/** One held key lets hear without what is selected: strips, in Move a source, in Finish an effect, a chain's or all of them. */
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useHeld } from './useHeld'
import { useShortcuts } from '../keys/useShortcuts'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'

export function useHearWithout() {
  const document = useDocument()
  const finish = useFinish()
  const route = useRoute()
  const chosen = computed(() => (route.name === 'finish' ? (finish.selected === null ? finish.many : [finish.selected]) : route.name === 'move' ? (document.source === null ? [] : [document.source]) : document.units))
  const held = useHeld()
  /** Throws chance anew: that of the selected source, or else all of it. */
  function throwAnew() {
    const all = document.view?.sources.filter(({ kind }) => kind === 'random') ?? []
    const one = all.filter(({ id }) => route.name === 'move' && id === document.source)
    const gesture = document.beginGesture()
    for (const source of one.length ? one : all) {
      const seed = source.values.find(({ address }) => address.param === 'random.seed')
      if (seed) document.alter({ ask: 'edit', edit: { do: 'set_value', address: seed.address, value: (seed.value + 1) % 256 }, units: [], gesture })
    }
    document.endGesture()
    return all.length > 0
  }
  useShortcuts({
    down(event) {
      if (event.code === 'KeyK' && !event.ctrlKey && !event.metaKey && !event.altKey && !event.repeat) return throwAnew()
      if (event.code !== 'KeyO' || event.ctrlKey || event.metaKey || event.altKey || event.repeat || chosen.value.length === 0) return
      held.press(chosen.value)
    },
    up: (event) => event.code === 'KeyO' && held.release(),
    lost: held.release,
  })
}
