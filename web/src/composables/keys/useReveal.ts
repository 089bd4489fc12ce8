/** Going to a value: what it belongs to is selected in the view where it is set, and its field gets the focus. */
import { useRouter } from 'vue-router'

import { keyOf, keyOfField } from '../screen/onScreen'
import { useControllerPanel } from './useControllerPanel'
import { useDrawer } from '../screen/useDrawer'
import { useUnfoldedParts } from '../screen/useUnfoldedParts'
import type { Hit } from '../../engine/generated/Hit'
import { useDocument } from '../../stores/document'
import { useFinish } from '../../stores/finish'
import { useSettings } from '../../stores/settings'

/** A view that is new has its fields after so many frames at most. */
const FRAMES = 20

export function useReveal(): (hit: Hit) => Promise<void> {
  const document = useDocument()
  const finish = useFinish()
  const router = useRouter()
  const settings = useSettings()
  const { toggle } = useUnfoldedParts()
  const drawer = useDrawer()
  const panel = useControllerPanel()
  return async ({ of, address, section, title }) => {
    const now = router.currentRoute.value
    const go = (name: string) => (now.name === name ? undefined : router.push({ name, params: now.params }))
    switch (of.is) {
      case 'patch':
      case 'strip':
        await go('build')
        document.select(of.is === 'strip' ? of.id : null)
        break
      case 'source':
        await go('move')
        document.source = of.id
        break
      case 'effect':
        await go('finish')
        finish.selected = of.id
    }
    if (!address && !section) return
    drawer.value = true
    if (section) toggle(section, true)
    if (!address) {
      // a choice: its options stand side by side
      const called = title.split(', ').at(-1)?.toLowerCase()
      for (let frame = 0; frame < FRAMES; frame++) {
        await new Promise(requestAnimationFrame)
        const groups = [...window.document.querySelectorAll<HTMLElement>('.inspector [role=group]')]
        const options = groups.find((each) => each.getAttribute('aria-label')?.toLowerCase() === called)
        const option = options?.querySelector<HTMLElement>('[aria-pressed=true]') ?? options?.querySelector<HTMLElement>('button')
        if (!option) continue
        option.scrollIntoView({ block: 'center' })
        option.focus()
        return
      }
      return
    }
    const key = keyOf(address)
    const focused = async () => {
      for (let frame = 0; frame < FRAMES; frame++) {
        await new Promise(requestAnimationFrame)
        const field = [...window.document.querySelectorAll<HTMLElement>('[role=spinbutton]')].find((each) => keyOfField(each) === key)
        if (!field) continue
        field.scrollIntoView({ block: 'center' })
        field.focus()
        return true
      }
      return false
    }
    // what is no part of a sheet stands beside the phrase
    if ((await focused()) || of.is !== 'patch') return
    // what is played beside the key stands in the panel of controllers, all else beside the phrase
    if (address.param.startsWith('audition.')) panel.value++
    else settings.picture = 'phrase'
    await focused()
  }
}
