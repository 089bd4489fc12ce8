/** One held key lets hear without what is selected: strips, or in Move a source. */
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useShortcuts } from './useShortcuts'
import { bench, Superseded } from '../engine/bench'
import type { Listening } from '../engine/generated/Listening'
import { useDocument } from '../stores/document'
import { usePlaying } from '../stores/playing'

export function useHearWithout() {
  const document = useDocument()
  const playing = usePlaying()
  const route = useRoute()
  const chosen = computed(() => (route.name === 'move' ? (document.source === null ? [] : [document.source]) : document.units))
  let without = false
  let turn = 0
  function hear(units: number[]) {
    const before = document.view?.listening
    without = units.length > 0
    document.ask({ ask: 'hear_without', units })
    const mine = ++turn
    if (without && before) void even(before, mine)
    else playing.setGain(playing.matched)
  }
  /** Brings what is heard now to the loudness there was, so that less does not pass for worse. */
  async function even(before: Listening, mine: number) {
    const text = document.text()
    const now = document.view?.listening
    try {
      const [here_lufs, there_lufs] = [await bench().loudness(text, 'without', now), await bench().loudness(text, 'with', before)]
      const answer = document.ask({ ask: 'match', here_lufs, there_lufs })
      if (mine === turn && without && answer.is === 'match') playing.setGain(playing.matched * answer.evened)
    } catch (error) {
      if (!(error instanceof Superseded)) throw error
    }
  }
  const again = () => {
    if (without) hear([])
  }
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
      if (event.code !== 'KeyO' || event.ctrlKey || event.metaKey || event.altKey || event.repeat || without || chosen.value.length === 0) return
      hear(chosen.value)
    },
    up: (event) => event.code === 'KeyO' && again(),
    lost: again,
  })
}
