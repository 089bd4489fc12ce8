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
