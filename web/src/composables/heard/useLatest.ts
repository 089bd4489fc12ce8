/** One request at a time; of what is wanted meanwhile only the newest is asked for next. */
export function useLatest<T>(ask: (wish: T) => Promise<void>): (wish: T) => void {
  let busy = false
  let waiting: { wish: T } | undefined
  async function want(wish: T) {
    if (busy) {
      waiting = { wish }
      return
    }
    busy = true
    try {
      await ask(wish)
    } finally {
      busy = false
      const next = waiting
      waiting = undefined
      if (next) void want(next.wish)
    }
  }
  return (wish) => void want(wish)
}
