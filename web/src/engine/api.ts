/** Client of the server. */
import type { About } from './generated/About'
import type { Emptied } from './generated/Emptied'
import type { NewPatch } from './generated/NewPatch'
import type { PatchFull } from './generated/PatchFull'
import type { PatchList } from './generated/PatchList'
import type { PatchSummary } from './generated/PatchSummary'
import type { Problem } from './generated/Problem'
import type { SavePatch } from './generated/SavePatch'
import type { StoredSteps } from './generated/StoredSteps'
import type { VersionFull } from './generated/VersionFull'
import type { VersionSummary } from './generated/VersionSummary'

/** The server answered that it will not; `status` says why. */
export class Refusal extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

/** An answer that does not come in this time never does, in milliseconds. */
const PATIENCE_MS = 30_000

/** The library this page belongs to, as it was when it was opened; the server refuses what is meant for another one. */
let ours: Record<string, string> = {}
export function setLibrary({ library, opening }: About) {
  ours = { 'zolvik-library': library, 'zolvik-opening': opening }
}
/** Told on the window when a backup was put in the library's place. */
export const REPLACED = 'zolvik-replaced'
const REPLACED_TITLE = 'a backup was put in place'

/** Pauses before reading is tried again, in milliseconds: a browser breaks requests off when it begins to leave the page, even
 * if it then stays. */
const AGAIN_MS = [60, 200, 500, 1000]

export async function call<T>(method: string, path: string, body?: unknown, tries = 0): Promise<T> {
  let response: Response
  try {
    response = await fetch(path, {
      method,
      headers: body === undefined ? ours : { ...ours, 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
      signal: AbortSignal.timeout(PATIENCE_MS),
    })
  } catch (error) {
    if (method !== 'GET' || !(error instanceof TypeError) || tries >= AGAIN_MS.length) throw error
    await new Promise((resolve) => window.setTimeout(resolve, AGAIN_MS[tries]))
    return call<T>(method, path, body, tries + 1)
  }
  return answered<T>(response)
}

async function answered<T>(response: Response): Promise<T> {
  if (!response.ok) {
    const fallback = { title: 'failed', status: response.status, detail: `the server answered ${response.status}` }
    const problem = (await response.json().catch(() => fallback)) as Problem
    if (problem.title === REPLACED_TITLE) window.dispatchEvent(new Event(REPLACED))
    throw new Refusal(problem)
  }
  return (await response.json()) as T
}

const at = (id: number, rest = '') => `/api/patches/${id}${rest}`

export const api = {
  about: async () => answered<About>(await fetch('/api/library', { signal: AbortSignal.timeout(PATIENCE_MS) })),
  list: (bin: boolean, offset: number, limit: number) => call<PatchList>('GET', `/api/patches?bin=${bin}&offset=${offset}&limit=${limit}`),
  create: (body: Partial<NewPatch>) => call<PatchFull>('POST', '/api/patches', body),
  /** Adds the patch of a file: a patch file or a bundle. */
  async importFile(file: Blob): Promise<PatchFull> {
    return answered<PatchFull>(await fetch('/api/imports', { method: 'POST', headers: ours, body: file }))
  },
  /** A patch as a file to take along; the server names it. */
  fileUrl: (id: number) => at(id, '/file'),
  /** The stored text as it is, readable or not. */
  rawUrl: (id: number) => at(id, '/raw'),
  erase: (id: number) => call<Emptied>('DELETE', `/api/bin/${id}`),
  emptyBin: () => call<Emptied>('DELETE', '/api/bin'),
  read: (id: number) => call<PatchFull>('GET', at(id)),
  steps: (id: number) => call<StoredSteps>('GET', at(id, '/steps')),
  /** Keeps a state that cannot be saved as it is, beside the good one; gives why it cannot. */
  keepBeside: (id: number, document: string) => call<string>('PUT', at(id, '/beside'), { document }),
  dropBeside: (id: number) => call<boolean>('DELETE', at(id, '/beside')),
  save: (id: number, body: SavePatch) => call<PatchSummary>('PUT', at(id), body),
  rename: (id: number, name: string) => call<PatchSummary>('PATCH', at(id), { name }),
  tag: (id: number, tag: string) => call<PatchSummary>('POST', at(id, '/tags'), { tag }),
  duplicate: (id: number) => call<PatchFull>('POST', at(id, '/duplicate')),
  bin: (id: number) => call<PatchSummary>('POST', at(id, '/bin')),
  restore: (id: number) => call<PatchSummary>('POST', at(id, '/restore')),
  versions: (id: number) => call<VersionSummary[]>('GET', at(id, '/versions')),
  keepVersion: (id: number, name: string) => call<VersionSummary>('POST', at(id, '/versions'), { name }),
  renameVersion: (id: number, version: number, name: string) => call<VersionSummary>('PATCH', at(id, `/versions/${version}`), { name }),
  deleteVersion: (id: number, version: number) => call<VersionSummary[]>('DELETE', at(id, `/versions/${version}`)),
  version: (id: number, version: number) => call<VersionFull>('GET', at(id, `/versions/${version}`)),
  pictureUrl: (patch: PatchSummary) => at(patch.id, `/picture?content=${patch.content}`),
}
