/** Which tab of the browser this is, and which others live. */

const KEY = 'zolvik-tab'
const OPENED = 'zolvik-opened'
const lockOf = (tab: string) => `${KEY}-${tab}`

let mine: Promise<string> | undefined

/** Holds a name for this tab while the page lives; false if another tab has it: a tab that was duplicated. */
function hold(tab: string): Promise<boolean> {
  return new Promise((resolve) => {
    void navigator.locks.request(lockOf(tab), { ifAvailable: true }, (lock) => {
      resolve(lock !== null)
      // held until the page goes
      return lock ? new Promise(() => {}) : undefined
    })
  })
}

async function find(): Promise<string> {
  const before = sessionStorage.getItem(KEY)
  if (before && (await hold(before))) return before
  const tab = crypto.randomUUID()
  await hold(tab)
  sessionStorage.setItem(KEY, tab)
  sessionStorage.setItem(OPENED, new Date().toISOString())
  return tab
}

/** When this tab was opened, RFC 3339; the same after loading the page again. */
export const tabOpened = () => sessionStorage.getItem(OPENED) ?? new Date().toISOString()

/** This tab's name; the same after loading the page again. */
export function thisTab(): Promise<string> {
  mine ??= find()
  return mine
}

/** Names of all tabs that are open now. */
export async function livingTabs(): Promise<Set<string>> {
  const { held } = await navigator.locks.query()
  return new Set((held ?? []).map((lock) => lock.name?.replace(`${KEY}-`, '') ?? ''))
}
