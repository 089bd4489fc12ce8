/** What the core tells of a view: parts the page knows already are only named. */

/** Puts a view together again from what is told and what is known. */
export function makeMemory(): <T>(told: T) => T {
  const known = new Map<string, unknown>()
  function whole(part: unknown): unknown {
    if (typeof part !== 'object' || part === null) return part
    if (Array.isArray(part)) return part.map(whole)
    const fields = part as Record<string, unknown>
    if ('same' in fields) return known.get(fields.same as string)
    if (!('told' in fields)) return Object.fromEntries(Object.entries(fields).map(([name, value]) => [name, whole(value)]))
    const name = fields.told as string
    const now = share(known.get(name), fields.is)
    known.set(name, now)
    return now
  }
  return <T>(told: T) => whole(told) as T
}

/** What is like it was stays the same object, however deep, so that only what changed is drawn anew. */
export function share<T>(before: unknown, now: T): T {
  if (before === now || typeof before !== 'object' || typeof now !== 'object' || before === null || now === null || Array.isArray(before) !== Array.isArray(now)) return now
  const [old, young] = [before as Record<string, unknown>, now as Record<string, unknown>]
  const names = Object.keys(young)
  let isSame = names.length === Object.keys(old).length
  for (const name of names) {
    young[name] = share(old[name], young[name])
    isSame &&= young[name] === old[name]
  }
  return isSame ? (before as T) : now
}
