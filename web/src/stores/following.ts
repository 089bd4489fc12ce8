/** While a hand moves a value, what is heard and the value itself come at once. All else that is seen follows as often as the page has time for it. */
import { nextTick } from 'vue'

import { workers } from '../engine/workers'
import { afterFrame, isTight } from '../engine/frames'
import type { DocumentView } from '../engine/generated/DocumentView'

/** What takes so little is done at once, in milliseconds. */
const AT_ONCE_MS = 2
/** Between two looks so many times as long as one takes; more where frames come late. */
const PAUSE = { usual: 2, tight: 6 }

export interface Following {
  /** A value was moved: what is seen is behind. */
  behind(): void
  /** The hand rests: sees all as it is then. */
  settle(): void
  /** All of it was seen otherwise. */
  seen(): void
}

/** `look` gives what there is to see, with a hand at rest or not, `show` shows it; `isNewest` says that nothing was moved since it was looked at. */
export function makeFollowing(look: (atRest: boolean) => DocumentView | undefined, show: (view: DocumentView, isNewest: boolean) => void): Following {
  let isBehind = false
  let isNewest = false
  /** What was looked at and is not shown yet. */
  let looked: DocumentView | undefined
  let lookingMs = 0
  /** How long all of it takes, which the first time tells, and when it was done last, in milliseconds. */
  let takesMs = AT_ONCE_MS
  let doneAt = 0

  function lookNow(atRest = false) {
    const from = performance.now()
    looked = look(atRest)
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
    if (performance.now() - doneAt < takesMs * (isTight() ? PAUSE.tight : PAUSE.usual)) return afterFrame(follow)
    workers().giveWay()
    lookNow()
    afterFrame(arrive)
  }
  function arrive() {
    if (!isBehind) return
    workers().giveWay()
    showNow()
    if (isBehind) afterFrame(follow)
  }
  function seeNow(atRest = false) {
    lookNow(atRest)
    showNow()
  }
  return {
    behind() {
      isBehind = true
      isNewest = false
      if (takesMs < AT_ONCE_MS) seeNow()
      else if (!looked) afterFrame(follow)
    },
    settle: () => seeNow(true),
    seen() {
      isBehind = false
      looked = undefined
    },
  }
}
