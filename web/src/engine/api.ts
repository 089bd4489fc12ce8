/** Client of the server. */
import type { NewPatch } from './generated/NewPatch'
import type { PatchFull } from './generated/PatchFull'
import type { PatchSummary } from './generated/PatchSummary'
import type { Problem } from './generated/Problem'
import type { SavePatch } from './generated/SavePatch'
import type { VersionFull } from './generated/VersionFull'
import type { VersionSummary } from './generated/VersionSummary'

/** The server answered that it will not; `status` says why. */
export class Refusal extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const response = await fetch(path, {
    method,
    headers: body === undefined ? {} : { 'content-type': 'application/json' },
    body: body === undefined ? undefined : JSON.stringify(body),
  })
  return answered<T>(response)
}

async function answered<T>(response: Response): Promise<T> {
  if (!response.ok) {
    const fallback = { title: 'failed', status: response.status, detail: `the server answered ${response.status}` }
    throw new Refusal((await response.json().catch(() => fallback)) as Problem)
  }
  return (await response.json()) as T
}

const at = (id: number, rest = '') => `/api/patches/${id}${rest}`

export const api = {
  list: (bin: boolean) => call<PatchSummary[]>('GET', `/api/patches?bin=${bin}`),
  create: (body: NewPatch) => call<PatchFull>('POST', '/api/patches', body),
  /** Adds the patch of a file: a patch file or a bundle. */
  async importFile(file: Blob): Promise<PatchFull> {
    return answered<PatchFull>(await fetch('/api/imports', { method: 'POST', body: file }))
  },
  /** A patch as a file to take along; the server names it. */
  fileUrl: (id: number) => at(id, '/file'),
  read: (id: number) => call<PatchFull>('GET', at(id)),
  save: (id: number, body: SavePatch) => call<PatchSummary>('PUT', at(id), body),
  rename: (id: number, name: string) => call<PatchSummary>('PATCH', at(id), { name }),
  duplicate: (id: number) => call<PatchFull>('POST', at(id, '/duplicate')),
  bin: (id: number) => call<PatchSummary>('POST', at(id, '/bin')),
  restore: (id: number) => call<PatchSummary>('POST', at(id, '/restore')),
  versions: (id: number) => call<VersionSummary[]>('GET', at(id, '/versions')),
  keepVersion: (id: number, name: string) => call<VersionSummary>('POST', at(id, '/versions'), { name }),
  version: (id: number, version: number) => call<VersionFull>('GET', at(id, `/versions/${version}`)),
  pictureUrl: (patch: PatchSummary) => at(patch.id, `/picture?r=${patch.revision}`),
}
