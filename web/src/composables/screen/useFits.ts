/** How much of a bar has to be left out so that the rest fits: from 0 (all is shown) in steps of what it can do without. */
import { useResizeObserver } from '@vueuse/core'
import { nextTick, ref, toValue, watch, type MaybeRefOrGetter, type Ref } from 'vue'

/** `told` names all that makes the bar wider or narrower; with each change it is looked at again, before it is painted. */
export function useFits(bar: Ref<HTMLElement | null>, most: MaybeRefOrGetter<number>, told: () => unknown): Ref<number> {
  const left = ref(0)
  const overflows = () => bar.value !== null && bar.value.scrollWidth > bar.value.clientWidth
  async function look() {
    left.value = 0
    await nextTick()
    while (left.value < toValue(most) && overflows()) {
      left.value += 1
      await nextTick()
    }
  }
  useResizeObserver(bar, look)
  watch(told, look, { flush: 'post' })
  // letters of another width
  void document.fonts.ready.then(look)
  return left
}
