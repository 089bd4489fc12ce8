/** A long press of a finger does what the right button does, also where the browser makes nothing of it. */
import { useEventListener } from '@vueuse/core'

/** From when on a press is a long one, in milliseconds: a little later than browsers that have an answer of their own. */
const LONG_MS = 650
/** Pixels a finger may tremble. */
const SLACK_PX = 8

export function useLongPress() {
  let timer = 0
  let from: PointerEvent | undefined
  const forget = () => {
    window.clearTimeout(timer)
    from = undefined
  }
  function press() {
    const begun = from
    forget()
    if (!(begun?.target instanceof Element)) return
    const { clientX, clientY, pointerId, target } = begun
    const asked = new MouseEvent('contextmenu', { bubbles: true, cancelable: true, clientX, clientY, button: 2 })
    // who has an answer takes it; then the finger holds nothing more, and lifting it is no click
    if (target.dispatchEvent(asked)) return
    target.dispatchEvent(new PointerEvent('pointercancel', { bubbles: true, pointerId, pointerType: 'touch' }))
    const swallow = (event: Event) => {
      event.preventDefault()
      event.stopImmediatePropagation()
    }
    const lifted = new AbortController()
    window.addEventListener('click', swallow, { capture: true, signal: lifted.signal })
    window.addEventListener('pointerup', () => window.setTimeout(() => lifted.abort(), 0), { once: true })
  }
  useEventListener(window, 'pointerdown', (event) => {
    forget()
    if (event.pointerType !== 'touch' || !event.isPrimary) return
    from = event
    timer = window.setTimeout(press, LONG_MS)
  }, { capture: true })
  useEventListener(window, 'pointermove', (event) => from && Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) > SLACK_PX && forget(), { capture: true })
  // the browser's own answer is one
  for (const end of ['pointerup', 'pointercancel', 'contextmenu'] as const) useEventListener(window, end, forget, { capture: true })
}
