/** The first thing there is to see: what takes the machine's time waits for it. */

/** A view that never comes holds nothing up for longer than this. */
const PATIENCE_MS = 1000

let shown: () => void = () => {}
const first = new Promise<void>((resolve) => {
  shown = resolve
  setTimeout(resolve, PATIENCE_MS)
})

/** Said by a view once what it was opened for is on the screen, or cannot be. */
export function tellFirstLook() {
  // for those who measure
  performance.mark('first look')
  shown()
}
/** When the first view is there. */
export const firstLook = () => first
