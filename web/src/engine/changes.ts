/** What changed in bytes that are sent again and again. */

/** Where two stretches are nearer than this they are one, in words of four bytes. */
const NEAR = 3

/** What is new of `now`, as stretches of words: place, how many, and the words, and so on. None if the lengths differ or most is new: then all
 *  of it is to be sent. */
export function changes(before: Uint8Array<ArrayBuffer> | undefined, now: Uint8Array<ArrayBuffer>): Uint32Array<ArrayBuffer> | undefined {
  if (before?.length !== now.length || now.length % 4 > 0) return undefined
  const [old, young] = [new Uint32Array(before.buffer, before.byteOffset, before.length / 4), new Uint32Array(now.buffer, now.byteOffset, now.length / 4)]
  const most = young.length / 2
  // where each stretch begins and ends
  const stretches: [number, number][] = []
  let words = 0
  for (let at = 0; at < young.length; at++) {
    if (old[at] === young[at]) continue
    const last = stretches[stretches.length - 1]
    if (last && at - last[1] < NEAR) {
      words += at + 1 - last[1]
      last[1] = at + 1
    } else {
      words += 3
      stretches.push([at, at + 1])
    }
    if (words > most) return undefined
  }
  const packed = new Uint32Array(words)
  let to = 0
  for (const [from, end] of stretches) {
    packed.set([from, end - from], to)
    packed.set(young.subarray(from, end), to + 2)
    to += 2 + end - from
  }
  return packed
}
