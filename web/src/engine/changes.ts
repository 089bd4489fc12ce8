/** What changed in bytes that are sent again and again. */

/** Where two stretches are nearer than this they are one, in words of four bytes. */
const NEAR = 3

/** What is new of `now`, as stretches of words: place, how many, and the words, and so on. None if the lengths differ or most is new: then all
 *  of it is to be sent. */
export function changes(before: Uint8Array<ArrayBuffer> | undefined, now: Uint8Array<ArrayBuffer>): Uint32Array<ArrayBuffer> | undefined {
  if (before?.length !== now.length || now.length % 4 > 0) return undefined
  const [old, young] = [new Uint32Array(before.buffer, before.byteOffset, before.length / 4), new Uint32Array(now.buffer, now.byteOffset, now.length / 4)]
  const most = young.length / 2
  const packed: number[] = []
  let begin = -1
  let last = -1
  const close = () => {
    if (begin >= 0) packed.push(begin, last - begin + 1, ...young.subarray(begin, last + 1))
  }
  for (let at = 0; at < young.length; at++) {
    if (old[at] === young[at]) continue
    if (begin < 0 || at - last > NEAR) {
      close()
      if (packed.length > most) return undefined
      begin = at
    }
    last = at
  }
  close()
  return packed.length > most ? undefined : new Uint32Array(packed)
}
