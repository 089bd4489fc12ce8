/** The auditioned note as pictures: coarse at once while dragging, fine when the hand rests. The latest wins. */
import { useTimeoutFn } from '@vueuse/core'
import { computed, readonly, ref, shallowRef, watch, type Ref, type ShallowRef } from 'vue'

import { bench, Superseded, type Looking, type Unfolded } from '../engine/bench'
import { soundsAtHand } from '../engine/sounds'
import { useLatest } from './useLatest'
import { useDocument } from '../stores/document'
import { useFinish } from '../stores/finish'
import { useSettings } from '../stores/settings'

export interface UseUnfoldReturn {
  picture: Readonly<ShallowRef<Unfolded | undefined>>
  /** Counts pictures, so that what depends on one can be asked for again. */
  version: Readonly<Ref<number>>
  /** Milliseconds from the last edit to its picture. */
  latencyMs: Readonly<Ref<number>>
}

/** Quiet time before the fine picture, in milliseconds. */
const REST_MS = 140

/** Pause between two coarse pictures, in milliseconds. */
const BREATH_MS = 40

/** `inFinish` says whether effects are looked at. */
export function useUnfold(inFinish: Readonly<Ref<boolean>>): UseUnfoldReturn {
  const document = useDocument()
  const settings = useSettings()
  const finish = useFinish()
  const looking = computed<Looking>(() => ({
    voice: (inFinish.value ? finish.inFinish : finish.inBuild) === 'voice' && finish.effects.length > 0,
    effect: inFinish.value && finish.inFinish === 'finished' ? finish.selected : null,
  }))
  const picture = shallowRef<Unfolded>()
  const version = ref(0)
  const latencyMs = ref(0)
  let changedAt = 0

  const draw = useLatest<boolean>(
    async (fine) => {
      const view = document.view
      if (!view) return
      try {
        document.tellMissing(await soundsAtHand(view.sounds))
        picture.value = await bench().unfold(document.text(), view.listening, settings.exponent, fine, settings.showsPhrase, looking.value)
        version.value++
        latencyMs.value = performance.now() - changedAt
      } catch (error) {
        if (!(error instanceof Superseded)) document.refusal = error instanceof Error ? error.message : String(error)
      }
    },
    // the hand comes first: between two pictures of a drag it has the machine for itself for a moment
    { join: (waiting, next) => waiting || next, breathMs: (fine) => (fine ? 0 : BREATH_MS) },
  )

  const rest = useTimeoutFn(() => draw(true), REST_MS, { immediate: false })
  watch(
    () => [document.change, settings.exponent, settings.showsPhrase, looking.value.voice, looking.value.effect],
    () => {
      changedAt = performance.now()
      draw(false)
      rest.start()
    },
    { immediate: true },
  )
  return { picture, version: readonly(version), latencyMs: readonly(latencyMs) }
}
