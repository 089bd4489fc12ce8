/** While a hand moves a value, what is heard and the value itself come at once. All else that is seen follows as often as the page has time for it. */
import { nextTick } from 'vue'

import { bench } from '../engine/bench'
import { afterFrame } from '../engine/frames'
import type { DocumentView } from '../engine/generated/DocumentView'

/** What takes so little is done at once, in milliseconds. */
const AT_ONCE_MS = 2
/** What is seen takes at most one part in so many of the page's time. */
const PARTS = 2

export interface Following {
  /** A value was moved: what is seen is behind. */
  behind(): void
  /** Sees it now, if it is behind. */
  catchUp(): void
  /** All of it was seen otherwise. */
  seen(): void
}

/** `look` gives what there is to see, `show` shows it; `isNewest` says that nothing was moved since it was looked at. */
export function makeFollowing(look: () => DocumentView | undefined, show: (view: DocumentView, isNewest: boolean) => void): Following {
  let isBehind = false
  let isNewest = false
  /** What was looked at and is not shown yet. */
  let looked: DocumentView | undefined
  let lookingMs = 0
  /** How long all of it takes, and when it was done last, in milliseconds. */
  let takesMs = 0
  let doneAt = 0

  function lookNow() {
    const from = performance.now()
    looked = look()
    isNewest = true
    lookingMs = performance.now() - from
  }
  function showNow() {
    if (!looked) return
    const from = performance.now()
    isBehind = !isNewest
    show(looked, isNewest)
    looked = undefined
    void nextTick(() => {
      doneAt = performance.now()
      takesMs = lookingMs + doneAt - from
    })
  }
  // looked at after one frame and shown after the next, so that neither is late for it
  function follow() {
    if (!isBehind || looked) return
    if (performance.now() - doneAt < PARTS * takesMs) return afterFrame(follow)
    bench().giveWay()
    lookNow()
    afterFrame(arrive)
  }
  function arrive() {
    if (!isBehind) return
    bench().giveWay()
    showNow()
    if (isBehind) afterFrame(follow)
  }
  function catchUp() {
    if (!isBehind) return
    lookNow()
    showNow()
  }
  return {
    behind() {
      isBehind = true
      isNewest = false
      if (takesMs < AT_ONCE_MS) catchUp()
      else if (!looked) afterFrame(follow)
    },
    catchUp,
    seen() {
      isBehind = false
      looked = undefined
    },
  }
}
