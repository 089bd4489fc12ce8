/** Rendering many files on the server: begun, followed, stopped, gone on with, fetched or given up. */
import { call } from './api'
import type { Batch } from './generated/Batch'
import type { Format } from './generated/Format'
import type { Progress } from './generated/Progress'
import type { RenderJob } from './generated/RenderJob'
import type { RenderView } from './generated/RenderView'

export interface Wish { document: string; batch: Batch; format: Format; bits: number; rate_hz: number; keep: boolean }

export const rendersApi = {
  begin: (wish: Wish) => call<RenderJob>('POST', '/api/renders', wish),
  /** All there are, in whichever window they were begun. */
  list: () => call<RenderView[]>('GET', '/api/renders'),
  stop: (id: string) => call<Progress>('POST', `/api/renders/${id}/stop`),
  resume: (id: string) => call<Progress>('POST', `/api/renders/${id}/resume`),
  remove: (id: string) => call<boolean>('DELETE', `/api/renders/${id}`),
  fileUrl: (id: string) => `/api/renders/${id}/file`,
  /** Follows a render until it is over. */
  watch(id: string, told: (progress: Progress) => void): Promise<Progress> {
    return new Promise((resolve, reject) => {
      const events = new EventSource(`/api/renders/${id}/events`)
      events.onmessage = ({ data }: MessageEvent<string>) => {
        const progress = JSON.parse(data) as Progress
        told(progress)
        if (!progress.ended) return
        events.close()
        resolve(progress)
      }
      events.onerror = () => {
        events.close()
        reject(new Error('the server is gone; begin again when it is back'))
      }
    })
  },
}
