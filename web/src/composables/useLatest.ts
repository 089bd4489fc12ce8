/** One request at a time; of what is wanted meanwhile only the newest is asked for next. */

export interface LatestOptions<T> {
  /** What two wishes come to; the newer one if nothing is said. */
  join?: (waiting: T, next: T) => T
  /** Pause before a wish that waited, in milliseconds. */
  breathMs?: (next: T) => number
}

export function useLatest<T>(ask: (wish: T) => Promise<void>, { join = (_, next) => next, breathMs = () => 0 }: LatestOptions<T> = {}): (wish: T) => void {
  let busy = false
  let waiting: { wish: T } | undefined
  let breath = 0
  async function want(wish: T) {
    if (busy) {
      waiting = { wish: waiting ? join(waiting.wish, wish) : wish }
      return
    }
    busy = true
    // what was put off must not come after this one, which is newer
    window.clearTimeout(breath)
    try {
      await ask(wish)
    } finally {
      busy = false
      const next = waiting
      waiting = undefined
      const pause = next ? breathMs(next.wish) : 0
      if (next && pause > 0) breath = window.setTimeout(() => void want(next.wish), pause)
      else if (next) void want(next.wish)
    }
  }
  return (wish) => void want(wish)
}
