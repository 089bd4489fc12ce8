/** What this installation keeps beside patches: phrases, learnt controllers. */
import { call } from './api'
import type { KeptView } from './generated/KeptView'

export type Kept = KeptView

const path = (kind: string, name?: string) => `/api/kept/${kind}${name === undefined ? '' : `/${encodeURIComponent(name)}`}`

export const keptApi = {
  /** All of a kind; what was damaged since it was kept is marked, for whoever shows it. */
  all: (kind: string) => call<Kept[]>('GET', path(kind)),
  /** Those of a kind that are as they were kept. */
  list: async (kind: string) => (await call<Kept[]>('GET', path(kind))).filter(({ damaged }) => !damaged),
  keep: (kind: string, name: string, document: string) => call<void>('PUT', path(kind, name), { document }),
  forget: (kind: string, name: string) => call<void>('DELETE', path(kind, name)),
}
