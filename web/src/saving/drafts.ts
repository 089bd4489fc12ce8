/** What the server does not have yet is kept in the browser: by library, patch and tab, so that none takes another's place.
 * Small texts lie in the storage that is written at once, even while the page is being closed; large ones in the roomy one. */
import { del, entries, set } from 'idb-keyval'

export interface Draft {
  library: string
  patch: number
  tab: string
  name: string
  /** The stored revision it is based on. */
  revision: number
  text: string
  /** When it was kept, RFC 3339. */
  at: string
  /** Rises with every draft that is kept, whatever the clock does. */
  turn?: number
  /** When the window it was made in was opened, RFC 3339. */
  opened?: string
  /** Which opening of the library it belongs to: what was put in its place since has revisions of its own. */
  opening?: string
  /** Why it cannot be saved as it is; nothing if it can. */
  why?: string
}

const PREFIX = 'zolvik-draft:'
/** Longest text for the storage that is written at once, in characters; browsers give it about five million in all. */
const SMALL = 400_000

const keyOf = (draft: Pick<Draft, 'library' | 'patch' | 'tab'>) => `${PREFIX}${draft.library}:${draft.patch}:${draft.tab}`

/** The last text wanted for each key; writing is slower than editing. */
const roomy = new Map<string, Promise<void>>()
const wanted = new Map<string, Draft | undefined>()
function settle(key: string): Promise<void> {
  const under = roomy.get(key)
  if (under) return under
  const work = (async () => {
    while (wanted.has(key)) {
      const draft = wanted.get(key)
      wanted.delete(key)
      await (draft ? set(key, draft) : del(key))
    }
  })().finally(() => roomy.delete(key))
  roomy.set(key, work)
  return work
}

/** Keys that are not in the roomy storage for sure. */
const cleared = new Set<string>()
function clear(key: string) {
  if (cleared.has(key)) return
  cleared.add(key)
  wanted.set(key, undefined)
  // what cannot be dropped is found again, and then it is as it is stored, or older than what lies beside it
  void settle(key).catch(() => cleared.delete(key))
}

/** The highest turn there is. */
let turns = 0

/** Keeps a draft in place of the one before. Rejects if the browser has no room for it anywhere. */
export async function keepDraft(kept: Draft): Promise<void> {
  const draft = { ...kept, turn: ++turns }
  const key = keyOf(draft)
  if (draft.text.length <= SMALL) {
    try {
      localStorage.setItem(key, JSON.stringify(draft))
      clear(key)
      return
    } catch { /* it is full: the roomy storage may not be */ }
  }
  cleared.delete(key)
  wanted.set(key, draft)
  await settle(key)
  localStorage.removeItem(key)
}

export function dropDraft(draft: Pick<Draft, 'library' | 'patch' | 'tab'>): void {
  const key = keyOf(draft)
  localStorage.removeItem(key)
  clear(key)
}

function parsed(text: string | null): Draft | undefined {
  try {
    return text ? (JSON.parse(text) as Draft) : undefined
  } catch {
    return undefined
  }
}

/** Earlier versions kept edits by the patch's number alone: they are taken over as drafts of a tab that is gone. */
function takeOver(library: string) {
  const OLD = 'zolvik-unsaved-'
  for (const key of Object.keys(localStorage).filter((k) => k.startsWith(OLD))) {
    try {
      const { revision, text } = JSON.parse(localStorage.getItem(key) ?? '') as { revision: number; text: string }
      const { meta } = JSON.parse(text) as { meta: { name: string } }
      const draft: Draft = { library, patch: Number(key.slice(OLD.length)), tab: 'before', name: meta.name, revision, text, at: new Date().toISOString() }
      // first the new, then the old: where there is no room for both the old stays
      localStorage.setItem(keyOf(draft), JSON.stringify(draft))
      localStorage.removeItem(key)
    } catch { /* what cannot be read stays where it is */ }
  }
}

/** All drafts of a library; of two under one key the later one. */
export async function draftsOf(library: string): Promise<Draft[]> {
  takeOver(library)
  const found = new Map<string, Draft>()
  const take = (key: string, draft: Draft | undefined) => {
    const before = found.get(key)
    if (!draft) return
    turns = Math.max(turns, draft.turn ?? 0)
    // those of earlier versions have only their moment
    const isLater = before && (before.turn === draft.turn ? before.at < draft.at : (before.turn ?? 0) < (draft.turn ?? 0))
    if (!before || isLater) found.set(key, draft)
  }
  const mine = `${PREFIX}${library}:`
  Object.keys(localStorage).filter((key) => key.startsWith(mine)).forEach((key) => take(key, parsed(localStorage.getItem(key))))
  const large = await entries<string, Draft>().catch(() => [])
  large.filter(([key]) => key.startsWith(mine)).forEach(([key, draft]) => take(key, draft))
  return [...found.values()].sort((a, b) => a.at.localeCompare(b.at))
}
