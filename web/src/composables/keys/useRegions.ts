/** F6 goes from region to region, to what one uses first there; with Shift back. */
import { useShortcuts } from './useShortcuts'

/** Regions in the order of the screen, and in each what takes the focus. */
const REGIONS = ['.top a, .top button', '.audition button', '.rows .list, .library [tabindex="0"], .library input', '.add button', '.inspector [tabindex="0"], .inspector button', '.bottom button']

export function useRegions() {
  useShortcuts({
    down(event) {
      if (event.key !== 'F6') return false
      const places = REGIONS.flatMap((css) => {
        const first = [...window.document.querySelectorAll<HTMLElement>(css)].find((each) => each.offsetParent !== null)
        return first ? [first] : []
      })
      if (!places.length) return false
      const region = (element: Element | null) => element?.closest('.top, .audition, .rows, .library, .add, .inspector, .bottom')
      const now = places.findIndex((place) => region(place) === region(window.document.activeElement))
      places[(now + (event.shiftKey ? -1 : 1) + places.length) % places.length]?.focus()
      return true
    },
  })
}
