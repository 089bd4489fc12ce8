/** What goes between the page and its two workers, and between those. */
import type { Answer } from './generated/Answer'
import type { EffectLevelView } from './generated/EffectLevelView'
import type { PictureOf } from './generated/PictureOf'
import type { Task } from './generated/Task'

/** A module to start on, with the memory that says which picture is wanted and the way to the other worker; a task; a picture to render; something to draw while nobody waits; or what pictures are painted on. */
export type WorkerRequest =
  | { id: number; compiled: WebAssembly.Module; wanted: Int32Array; pair: MessagePort }
  | { id: number; task: Task; file?: Uint8Array<ArrayBuffer> }
  | { picture: number; of: PictureOf }
  | { warmUp: true }
  | { canvas?: OffscreenCanvas; colours: Uint32Array<ArrayBuffer> }

export interface WorkerReply {
  id: number
  answer: Answer
  parts: Uint8Array<ArrayBuffer>[]
}

/** From the worker that renders to the one that draws. */
export type PieceOfPicture = { picture: number; draw: Task } | { picture: number; piece: Uint8Array<ArrayBuffer>; last: boolean }

/** What becomes of a picture. */
export type PictureNews = { picture: number } & (
  | { news: 'refused'; why: string }
  | { news: 'ink' }
  | { news: 'rendered'; effects: EffectLevelView[] }
  | { news: 'whole'; answer: Answer; parts: Uint8Array<ArrayBuffer>[] }
  | { news: 'chance'; chancy: number[]; bands: Uint8Array<ArrayBuffer> }
)
