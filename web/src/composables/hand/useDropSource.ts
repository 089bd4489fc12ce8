/** A source of movement taken by its sign and dropped: onto a value, a rail or a strip, and it moves that. */
import { useGesture } from './useGesture'
import type { Address } from '../../engine/generated/Address'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'

/** Gives what takes hold of a source; for `pointerdown`. `clicked` is called where it was let go without a drag. */
export function useDropSource(): (event: PointerEvent, source: number, clicked?: () => void) => void {
  const document = useDocument()
  const moving = useMoving()

  /** What lies under the pointer that can be moved: a value, or a strip, whose strongest send is meant. */
  function under(x: number, y: number): { address?: Address; unit?: number; words: string } | undefined {
    for (const element of window.document.elementsFromPoint(x, y)) {
      const field = element.closest<HTMLElement>('[data-param]')
      if (field) {
        const { param, id, point } = field.dataset
        const words = field.dataset.movable ? `moves ${field.getAttribute('aria-label')?.toLowerCase() ?? 'this'}` : 'stands still while a note sounds'
        return field.dataset.movable ? { address: { param, id: Number(id), point: Number(point) } as Address, words } : { words }
      }
      const rail = element.closest<HTMLElement>('[data-route]')
      const depth = rail && document.view?.strips.flatMap(({ sends }) => sends).find(({ route }) => route === Number(rail.dataset.route))?.values[0]
      if (depth) return { address: depth.address, words: `moves ${depth.label.toLowerCase()}` }
      const strip = element.closest<HTMLElement>('[data-unit], [data-source]')
      if (strip) return { unit: Number(strip.dataset.unit ?? strip.dataset.source), words: strip.dataset.unit ? `moves what ${strip.getAttribute('aria-label') ?? 'it'} sends` : 'moves how fast it goes' }
    }
    return undefined
  }
  const { take } = useGesture<number>({
    edits: false,
    move(_, event) {
      moving.hint = { x: event.clientX, y: event.clientY, words: under(event.clientX, event.clientY)?.words ?? 'onto a value or a strip' }
    },
    end({ what }, event, kept) {
      moving.hint = undefined
      const onto = kept && event ? under(event.clientX, event.clientY) : undefined
      if (onto?.address) document.edit({ do: 'add_links', from: what, to: [onto.address] })
      else if (onto?.unit !== undefined && onto.unit !== what) document.alter({ ask: 'link_strips', from: what, strips: document.units.includes(onto.unit) ? document.units : [onto.unit] })
    },
  })
  return take
}
