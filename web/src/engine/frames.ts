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
/** Moves that are further apart are not of one hand that moves on, in milliseconds. */
const APART_MS = 250
/** So long after a late frame the page is short of time, in milliseconds. */
const TIGHT_MS = 500

let movedAt = 0
let lateAt = -Infinity
/** A hand moves on; told once a frame. */
export function handMoved(nowMs: number): void {
  const gap = nowMs - movedAt
  if (gap > LATE_MS && gap < APART_MS) lateAt = nowMs
  movedAt = nowMs
}
/** Whether a frame came late a short while ago, while a hand moved. */
export const isTight = (): boolean => movedAt - lateAt < TIGHT_MS
