/** What this installation keeps beside patches: phrases, learnt controllers. */
import { call } from './api'

export interface Kept { name: string; document: string }

const path = (kind: string, name?: string) => `/api/kept/${kind}${name === undefined ? '' : `/${encodeURIComponent(name)}`}`

export const keptApi = {
  list: (kind: string) => call<Kept[]>('GET', path(kind)),
  keep: (kind: string, name: string, document: string) => call<void>('PUT', path(kind, name), { document }),
  forget: (kind: string, name: string) => call<void>('DELETE', path(kind, name)),
}
