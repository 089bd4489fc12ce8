/** A value taken by its name and dropped on a source of movement: that moves it from then on. */
import type { ValueView } from '../../engine/generated/ValueView'
import { useDocument } from '../../stores/document'
import { useMoving } from '../../stores/moving'

export interface UseDropFieldReturn {
  /** Whether the pointer is over a source; then it says what letting go would do. */
  isOver: (event: PointerEvent) => boolean
  /** Links what is let go over a source; whether it was. */
  drop: (event: PointerEvent | undefined) => boolean
}

export function useDropField(value: () => ValueView): UseDropFieldReturn {
  const document = useDocument()
  const moving = useMoving()
  const giver = ({ clientX, clientY }: PointerEvent) => {
    const found = window.document.elementFromPoint(clientX, clientY)?.closest<HTMLElement>('[data-giver]')
    return document.view?.sources.find(({ id }) => id === Number(found?.dataset.giver))
  }
  return {
    isOver(event) {
      const source = giver(event)
      const { label, movable } = value()
      const words = source && (movable ? `${source.name} moves ${label.toLowerCase()}` : `${label} stands still while a note sounds`)
      moving.hint = words ? { x: event.clientX, y: event.clientY, words } : undefined
      return source !== undefined
    },
    drop(event) {
      moving.hint = undefined
      const source = event && giver(event)
      if (source && value().movable) document.edit({ do: 'add_links', from: source.id, to: [value().address] })
      return source !== undefined
    },
  }
}
