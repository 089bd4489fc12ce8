/** The auditioned note as pictures: coarse at once while dragging, fine when the hand rests. The latest wins. */
import { useTimeoutFn } from '@vueuse/core'
import { computed, readonly, ref, shallowRef, watch, type Ref, type ShallowRef } from 'vue'

import { workers, Superseded, type Looking, type Unfolded } from '../../engine/workers'
import { areAtHand, soundsAtHand } from '../../engine/sounds'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'
import { useSettings } from '../../stores/settings'

export interface UseUnfoldReturn {
  picture: Readonly<ShallowRef<Unfolded | undefined>>
  /** Whether the picture is exact, and of what is heard now. */
  isExact: Readonly<Ref<boolean>>
  /** Counts pictures, so that what depends on one can be asked for again. */
  version: Readonly<Ref<number>>
  /** Milliseconds from the last edit to the first of its picture, to all of it, and to the exact one. */
  latencyMs: Readonly<Ref<{ ink: number; whole: number; exact: number }>>
}

/** Quiet time before the fine picture, in milliseconds. */
const REST_MS = 140

/** `inFinish` says whether effects are looked at, `isOpen` whether the document is the patch that is looked at: nothing is drawn of another. */
export function useUnfold(inFinish: Readonly<Ref<boolean>>, isOpen: Readonly<Ref<boolean>>): UseUnfoldReturn {
  const document = useDocument()
  const settings = useSettings()
  const finish = useFinish()
  const looking = computed<Looking>(() => ({
    voice: (inFinish.value ? finish.inFinish : finish.inBuild) === 'voice' && finish.effects.length > 0,
    effect: inFinish.value && finish.inFinish === 'finished' ? finish.selected : null,
  }))
  const picture = shallowRef<Unfolded>()
  const isExact = ref(false)
  const version = ref(0)
  const latencyMs = ref({ ink: 0, whole: 0, exact: 0 })
  let turn = 0

  async function draw(fine: boolean, since: number) {
    const view = document.view
    if (!view) return
    const mine = ++turn
    const told = (what: 'ink' | 'whole' | 'exact') => (latencyMs.value = { ...latencyMs.value, [what]: performance.now() - since })
    let inked = false
    try {
      // the first picture of a patch is begun before the page draws what it is of; later ones leave the page its turn
      const isFirst = picture.value === undefined && areAtHand(view.sounds)
      document.tellMissing(isFirst ? [] : await soundsAtHand(view.sounds))
      if (mine !== turn) return
      // the exact one comes after it, however long its sounds took to come
      if (!fine) rest.start()
      const watching = {
        ink() {
          if (!inked && !fine) told('ink')
          inked = true
        },
        more: (now: Unfolded) => mine === turn && (picture.value = now),
      }
      picture.value = await workers().unfold(document.sounding, view.listening, settings.exponent, fine, settings.showsPhrase, looking.value, settings.span, document.gesture !== 0 && !fine, watching)
      isExact.value = picture.value.exact && mine === turn
      version.value++
      if (!inked && !fine) told('ink')
      told(fine ? 'exact' : 'whole')
      if (picture.value.settled && mine === turn) rest.stop()
    } catch (error) {
      if (!(error instanceof Superseded)) document.refusal = error instanceof Error ? error.message : String(error)
    }
  }

  const rest = useTimeoutFn(() => void draw(true, performance.now()), REST_MS, { immediate: false })
  watch(
    () => [isOpen.value, document.change, settings.exponent, settings.showsPhrase, looking.value.voice, looking.value.effect, settings.span],
    () => {
      isExact.value = false
      rest.stop()
      if (!isOpen.value) {
        turn++
        picture.value = undefined
        return
      }
      void draw(false, performance.now())
    },
    { immediate: true },
  )
  return { picture, isExact: readonly(isExact), version: readonly(version), latencyMs: readonly(latencyMs) }
}
