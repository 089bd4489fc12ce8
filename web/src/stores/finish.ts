/** Effects on the screen: which is selected, what the picture shows of them, and what this installation keeps of them. */
import { useStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'

import type { Unfolded } from '../engine/workers'
import type { ChainId } from '../engine/generated/ChainId'
import type { EffectLevelView } from '../engine/generated/EffectLevelView'
import type { EffectName } from '../engine/generated/EffectName'
import type { EffectView } from '../engine/generated/EffectView'
import { keptApi, type Kept } from '../engine/kept'
import { useDocument } from './document'

/** What a picture shows: what leaves, or the voices before all effects. */
export type Shown = 'voice' | 'finished'

export const useFinish = defineStore('finish', () => {
  const document = useDocument()
  const selected = ref<number | null>(null)
  /** A chain that is selected as a whole, while no effect is. */
  const picked = ref<ChainId | null>(null)
  /** The band of the selected EQ. */
  const band = ref(0)
  const picture = shallowRef<Unfolded>()
  const chains = computed(() => document.view?.finish.chains ?? [])
  const effects = computed(() => chains.value.flatMap((chain) => chain.effects))
  const effect = computed(() => effects.value.find(({ id }) => id === selected.value))
  const chain = computed(() => chains.value.find(({ id, effects: own }) => (selected.value === null ? id === picked.value : own.some((one) => one.id === selected.value))))
  /** What is heard without while that is held with no effect selected: the selected chain's effects, or all. */
  const many = computed(() => (chain.value && selected.value === null ? chain.value.effects : effects.value).map(({ id }) => id))
  function pick(id: ChainId | null) {
    selected.value = null
    picked.value = id
  }
  const levels = computed(() => new Map<number, EffectLevelView>(picture.value?.effects.map((level) => [level.id, level])))
  // each view remembers what it shows
  const inBuild = useStorage<Shown>('zolvik-shown', 'voice')
  const inFinish = useStorage<Shown>('zolvik-shown-finish', 'finished')

  watch(selected, (now) => {
    band.value = 0
    if (now !== null) picked.value = null
  })
  watch(effect, (now) => {
    if (now) band.value = Math.max(0, Math.min(band.value, now.bands.length - 1))
  })
  watch(effects, (now) => {
    if (selected.value !== null && !now.some(({ id }) => id === selected.value)) selected.value = null
  })
  watch(() => document.made, (id) => {
    if (id !== null && effects.value.some((one) => one.id === id)) selected.value = id
  })

  /** Settings this installation keeps. */
  const kept = shallowRef<Kept[]>([])
  const lookKept = async () => (kept.value = await keptApi.list('effect'))
  async function keep(id: number, name: string) {
    const answer = document.ask({ ask: 'keep_effect', effect: id })
    if (answer.is !== 'text') return
    await keptApi.keep('effect', name, answer.text)
    await lookKept()
  }
  async function forget(name: string) {
    await keptApi.forget('effect', name)
    await lookKept()
  }
  /** Those kept for a kind. */
  function keptFor(kind: EffectName) {
    const answer = kept.value.length ? document.ask({ ask: 'kept_for', kind, texts: kept.value.map((one) => one.document) }) : undefined
    return answer?.is === 'fits' ? kept.value.filter((_, at) => answer.fits[at]) : []
  }

  /** Puts an effect a place further up or down, over the ends of chains too. */
  const step = (id: number, by: -1 | 1) => document.alter({ ask: 'step_effect', effect: id, behind: by > 0 })
  /** Adds a band to an EQ: at a frequency and gain, or where there is most room. */
  function addBand({ id, bands }: EffectView, pointed: [number, number] | null = null) {
    if (!document.alter({ ask: 'add_band', effect: id, pointed })) band.value = bands.length
  }
  const move = (effectId: number, to: ChainId, at: number) => document.edit({ do: 'move_effect', effect: effectId, chain: to, at })
  /** The effect before or after the selected one. */
  function selectNext(by: -1 | 1) {
    const at = effects.value.findIndex(({ id }) => id === selected.value)
    const next = effects.value[at < 0 ? 0 : Math.max(0, Math.min(effects.value.length - 1, at + by))]
    if (next) selected.value = next.id
  }
  return { selected, picked, pick, many, band, picture, chains, effects, effect, chain, levels, inBuild, inFinish, kept, keptFor, lookKept, keep, forget, step, addBand, move, selectNext }
})
