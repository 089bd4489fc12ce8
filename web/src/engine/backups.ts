/** Backups of the library on the server. */
import { call } from './api'
import type { BackupContents } from './generated/BackupContents'
import type { BackupView } from './generated/BackupView'
import type { PatchFull } from './generated/PatchFull'

const at = (name: string, rest = '') => `/api/backups/${encodeURIComponent(name)}${rest}`

export const backupsApi = {
  list: () => call<BackupView[]>('GET', '/api/backups'),
  make: () => call<string>('POST', '/api/backups'),
  contents: (name: string) => call<BackupContents>('GET', at(name)),
  takeOut: (name: string, patch: number) => call<PatchFull>('POST', at(name, `/patches/${patch}`)),
  putInPlace: (name: string) => call<string>('POST', at(name, '/restore')),
}
