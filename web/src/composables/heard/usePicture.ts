/**
 * Small pictures, asked for when they are in sight and it is their turn: a browser has few connections to a server, and what is asked for
 * by hand must not wait for pictures that are still being drawn.
 */
import { useElementVisibility } from '@vueuse/core'
import { onScopeDispose, shallowRef, watch, type MaybeRefOrGetter } from 'vue'

/** A browser has six. */
const AT_ONCE = 3

let under = 0
const waiting = new Set<() => Promise<unknown>>()
function next() {
  for (const load of waiting) {
    if (under >= AT_ONCE) return
    waiting.delete(load)
    under++
    void load().finally(() => {
      under--
      next()
    })
  }
}

/** The picture at `url` as a CSS image once it has come; one that changes is seen until the new one is there. */
export function usePicture(element: MaybeRefOrGetter<HTMLElement | null | undefined>, url: () => string) {
  const shown = shallowRef<string>()
  const isInSight = useElementVisibility(element)
  let queued: (() => Promise<unknown>) | undefined
  const leave = () => queued && waiting.delete(queued)
  watch(
    [url, isInSight],
    ([address, inSight]) => {
      leave()
      const picture = `url("${address}")`
      if (!inSight || shown.value === picture) return
      queued = async () => {
        const image = new Image()
        // as a mask asks for it, so that it comes once
        image.crossOrigin = 'anonymous'
        image.src = address
        await image.decode().then(
          () => {
            // it may be of something else by now
            if (url() === address) shown.value = picture
          },
          // one that does not come leaves its place empty
          () => {},
        )
      }
      waiting.add(queued)
      next()
    },
    { immediate: true },
  )
  onScopeDispose(leave)
  return shown
}
