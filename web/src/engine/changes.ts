/** What changed in bytes that are sent again and again. */

/** Where two stretches are nearer than this they are one, in words of four bytes. */
const NEAR = 3

/** Whether eight words from there are the same; by eights, as nearly all of them are. */
function alike(old: Uint32Array, young: Uint32Array, at: number): boolean {
  const differing = (old[at] ^ young[at]) | (old[at + 1] ^ young[at + 1]) | (old[at + 2] ^ young[at + 2]) | (old[at + 3] ^ young[at + 3])
  const further = (old[at + 4] ^ young[at + 4]) | (old[at + 5] ^ young[at + 5]) | (old[at + 6] ^ young[at + 6]) | (old[at + 7] ^ young[at + 7])
  return (differing | further) === 0
}

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
    while (at + 8 <= young.length && alike(old, young, at)) at += 8
    if (at === young.length) break
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
