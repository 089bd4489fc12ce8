/** What the screen shows now, by its name: buttons that can be pressed, and fields of what is selected. */

import { nextTick } from 'vue'

import { useDrawer } from './useDrawer'
import type { Address } from '../../engine/generated/Address'

export interface OnScreen { title: string; now?: string; run: () => unknown }
/** `isSelected`: it is one of what is selected. */
export interface ShownField extends OnScreen { key: string; isSelected: boolean }

/** The same for a field and for the value it sets. */
export const keyOf = ({ param, id, point }: Address) => `${param} ${id} ${point}`
export const keyOfField = ({ dataset: { param, id, point } }: HTMLElement) => `${param} ${id} ${point}`

/** Longer ones are no names. */
const MOST_LETTERS = 60
const nameOf = (element: Element) => (element.getAttribute('aria-label') ?? element.textContent ?? '').trim().replace(/\s+/g, ' ')
const isNamed = (name: string) => name.length > 1 && name.length <= MOST_LETTERS && /\p{L}/u.test(name)
const isThere = (element: HTMLElement) => element.checkVisibility() && element.closest('[role=dialog], .p-toast') === null
/** The inspector may be a drawer that is closed: it opens for whoever goes to what is in it. */
const isInDrawer = (element: HTMLElement) => element.closest('.inspector') !== null && element.closest('[role=dialog]') === null
/** One of a few is named by what is chosen, too. */
const titled = (element: Element) => {
  const group = element.parentElement?.closest('[role=group].seg, [role=tablist]')?.getAttribute('aria-label')
  return group ? `${group}: ${nameOf(element)}` : nameOf(element)
}

export function buttonsOnScreen(): OnScreen[] {
  const all = [...document.querySelectorAll<HTMLElement>('button:not(:disabled), a[href]')]
  const found = new Map<string, OnScreen>()
  for (const element of all) {
    // keys are played, and what is inside of a field is that field's
    if (!isNamed(nameOf(element)) || !isThere(element) || element.closest('[data-key], [role=spinbutton]')) continue
    const title = titled(element)
    if (!found.has(title)) found.set(title, { title, run: () => element.click() })
  }
  return [...found.values()]
}

/** Those of what is selected come first; `of` tells whose they are. */
export function fieldsOnScreen(of: string): ShownField[] {
  const drawer = useDrawer()
  const all = [...document.querySelectorAll<HTMLElement>('[role=spinbutton]:not([aria-disabled=true])')].filter((field) => field.tabIndex >= 0 && (isThere(field) || isInDrawer(field)))
  const isSelected = (field: HTMLElement) => field.closest('.inspector') !== null
  const [selected, others] = [all.filter(isSelected), all.filter((field) => !isSelected(field))]
  const entry = (element: HTMLElement): ShownField => ({
    isSelected: isSelected(element),
    key: keyOfField(element),
    title: of && isSelected(element) ? `${nameOf(element)} ${of}` : nameOf(element),
    now: element.getAttribute('aria-valuetext') ?? undefined,
    async run() {
      if (isSelected(element)) drawer.value = true
      await nextTick()
      element.scrollIntoView({ block: 'center' })
      element.focus()
    },
  })
  return [...selected, ...others].map(entry)
}
