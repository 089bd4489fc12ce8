/** Recordings that were brought in: up to the store, and from there to the worker. */
import { workers } from './workers'
import type { Problem } from './generated/Problem'

/** What the worker has been given, by content. */
const known = new Set<string>()

/** Sends a file to the store. Gives the description of the recording, as JSON. */
export function uploadSound(file: File, progress: (share: number) => void, signal: AbortSignal): Promise<string> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', `/api/sounds?name=${encodeURIComponent(file.name)}`)
    request.upload.onprogress = (event) => progress(event.total > 0 ? event.loaded / event.total : 0)
    request.onload = () => {
      if (request.status < 300) return resolve(request.responseText)
      let detail = `the server answered ${request.status}`
      try {
        detail = (JSON.parse(request.responseText) as Problem).detail
      } catch { /* a proxy's page: the number says enough */ }
      reject(new Error(detail))
    }
    request.onerror = () => reject(new Error('it could not be sent; it may be larger than 64 MB, or the server is gone'))
    request.onabort = () => reject(new Error('cancelled'))
    signal.addEventListener('abort', () => request.abort())
    request.send(file)
  })
}

/** Whether the worker has them all. */
export const areAtHand = (contents: string[]) => contents.every((content) => known.has(content))
let bringing: Promise<string[]> = Promise.resolve([])
/** As [`bringSounds`], one call after the other. */
export function soundsAtHand(contents: string[]): Promise<string[]> {
  if (areAtHand(contents)) return Promise.resolve([])
  bringing = bringing.catch(() => []).then(() => bringSounds(contents))
  return bringing
}

/** Gives the worker the recordings it lacks. Gives the contents the store does not have. */
async function bringSounds(contents: string[]): Promise<string[]> {
  const missing: string[] = []
  for (const content of contents.filter((c) => !known.has(c))) {
    const response = await fetch(`/api/sounds/${content}`)
    if (response.ok) {
      await workers().putClip(content, new Uint8Array(await response.arrayBuffer()))
      known.add(content)
    } else if (response.status === 404) missing.push(content)
    else throw new Error(`a recording could not be loaded (${response.status}); try again`)
  }
  return missing
}
