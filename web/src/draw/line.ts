/** Lines through many points, of no more corners than one can see. */

/** How far the line may run beside a point, in pixels. */
const NEAR_PX = 0.15

/** A path through points from left to right: points that lie on the way from corner to corner are left out, since every corner costs
 *  time whenever something near is drawn. (Bristol, "Swinging door trending", 1990, with corners at points.) */
export function linePath(count: number, x: (i: number) => number, y: (i: number) => number): string {
  if (count === 0) return ''
  const corner = (i: number) => `${x(i).toFixed(1)} ${y(i).toFixed(1)}`
  let path = `M${corner(0)}`
  let [fromX, fromY] = [x(0), y(0)]
  let [least, most] = [-Infinity, Infinity]
  for (let i = 1; i < count; i++) {
    const [atX, atY] = [x(i), y(i)]
    const slope = (atY - fromY) / (atX - fromX)
    if (i > 1 && (slope < least || slope > most)) {
      path += `L${corner(i - 1)}`
      ;[fromX, fromY] = [x(i - 1), y(i - 1)]
      ;[least, most] = [-Infinity, Infinity]
    }
    const run = atX - fromX
    least = Math.max(least, (atY - NEAR_PX - fromY) / run)
    most = Math.min(most, (atY + NEAR_PX - fromY) / run)
  }
  return count > 1 ? `${path}L${corner(count - 1)}` : path
}

/** A path through evenly spaced values, each in the middle of its piece, the first and the last drawn out to the edges. */
export function coursePath(values: ArrayLike<number>, widthPx: number, y: (value: number) => number): string {
  const { length } = values
  if (length === 0) return ''
  const x = (i: number) => Math.max(0, Math.min(widthPx, ((i - 0.5) * widthPx) / length))
  return linePath(length + 2, x, (i) => y(values[Math.max(0, Math.min(length - 1, i - 1))]))
}
