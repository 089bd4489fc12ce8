/** What is done between two frames of the page. */

let acts: (() => void)[] = []
const between = new MessageChannel()
between.port1.onmessage = () => {
  const now = acts
  acts = []
  for (const act of now) act()
}

/** Does it once, when the next frame is drawn. */
export function afterFrame(act: () => void): void {
  if (acts.includes(act)) return
  // what is sent while a frame is prepared comes when that is drawn; one message is enough for all
  if (acts.length === 0) requestAnimationFrame(() => between.port2.postMessage(0))
  acts.push(act)
}

/** A frame that takes longer is late, in milliseconds: one of sixty a second was left out. */
const LATE_MS = 22
/** So many late ones of the last so many are too many. */
const TOO_MANY = 4
const OF_FRAMES = 32
/** Moves that are further apart are not of one hand that moves on, in milliseconds. */
const APART_MS = 250

let movedAt = 0
const late = Array<boolean>(OF_FRAMES).fill(false)
/** A hand moves on; told once a frame. */
export function handMoved(nowMs: number): void {
  const gap = nowMs - movedAt
  movedAt = nowMs
  if (gap < APART_MS) late.push(gap > LATE_MS)
  late.splice(0, late.length - OF_FRAMES)
}
/** Whether too many frames came late while a hand moved. */
export const isTight = (): boolean => late.filter(Boolean).length >= TOO_MANY
