/** Client of the worker. The only module that talks to it. */
import type { Answer } from './generated/Answer'
import type { Explanation } from './generated/Explanation'
import type { Level } from './generated/Level'
import type { Listening } from './generated/Listening'
import type { Partial } from './generated/Partial'
import type { Question } from './generated/Question'
import { moduleBytes } from './module'

export type BenchRequest = { id: number; bytes: ArrayBuffer } | { id: number; question: Question; file?: Uint8Array<ArrayBuffer> }
export interface BenchReply {
  id: number
  answer: Answer
  parts: Uint8Array<ArrayBuffer>[]
}

/** A note as pictures; all arrays share the columns. */
export interface Unfolded {
  columns: number
  rows: number
  /** One byte a point, rows from the lowest frequency. */
  spectrogram: Uint8Array
  loudnessDb: Float32Array
  /** For each unit, what it puts out, 0 to 1. */
  curves: Map<number, Float32Array>
  level: Level
}

export interface Spectrum {
  rowsDb: Float32Array
  partials: Partial[]
  explanation: Explanation
  /** Gain of a filter over the same frequencies, in dB; empty if none was asked for. */
  responseDb: number[]
}

export interface Bench {
  unfold(text: string, listening: Listening, exponent: number, fine: boolean): Promise<Unfolded>
  /** At a moment: what is heard, what theory makes of it, and the response of a filter if one is asked for. */
  spectrum(timeS: number, rows: number, filter: number | null): Promise<Spectrum>
  /** Loudness of the auditioned note, in LUFS. */
  loudness(text: string): Promise<number>
  /** Bytes of a wave for the audio thread. */
  bank(text: string, key: string): Promise<Uint8Array<ArrayBuffer>>
  /** Takes a recording's WAV, for all patches that play it. */
  putClip(content: string, wav: Uint8Array<ArrayBuffer>): Promise<void>
  /** Highest and lowest samples of stretches of what a sample plays, in turn. */
  waveform(text: string, unit: number, columns: number): Promise<{ peaks: Float32Array; lengthS: number }>
  /** Cuts a table from a WAV file: by a cycle's samples, or by pitch. Gives the table's JSON. */
  cutTable(file: File, name: string, cycle: number | null): Promise<string>
  wav(text: string, bits: number, rateHz: number, toItsEnd: boolean): Promise<{ name: string; bytes: Uint8Array<ArrayBuffer> }>
}

export function startBench(): Bench {
  const worker = new Worker(new URL('./bench.worker.ts', import.meta.url), { type: 'module' })
  const waiting = new Map<number, (reply: BenchReply) => void>()
  let last = 0
  worker.onmessage = (event: MessageEvent<BenchReply>) => {
    waiting.get(event.data.id)?.(event.data)
    waiting.delete(event.data.id)
  }
  const failAll = (why: string) => {
    waiting.forEach((settle, id) => settle({ id, answer: { is: 'refused', why }, parts: [] }))
    waiting.clear()
  }
  worker.onerror = (event) => failAll(`the picture cannot be drawn: ${event.message || 'the worker did not start'}`)
  const send = (make: (id: number) => BenchRequest) =>
    new Promise<BenchReply>((resolve, reject) => {
      const id = ++last
      waiting.set(id, (reply) => (reply.answer.is === 'refused' ? reject(new Error(reply.answer.why)) : resolve(reply)))
      worker.postMessage(make(id))
    })
  const started = moduleBytes().then((bytes) => send((id) => ({ id, bytes })))
  const ask = async (question: Question, file?: Uint8Array<ArrayBuffer>) => {
    await started
    return send((id) => ({ id, question, file }))
  }
  /** The first bytes tell whether a file is worth reading whole. */
  const BEGINNING = 65_536
  const floats = (part: Uint8Array<ArrayBuffer>) => new Float32Array(part.buffer)
  return {
    async unfold(text, listening, exponent, fine) {
      const { answer, parts } = await ask({ ask: 'unfold', text, listening, exponent, detail: fine ? 'fine' : 'coarse' })
      if (answer.is !== 'unfolded') throw new Error('unexpected answer')
      const all = floats(parts[2])
      const curve = (i: number) => all.subarray(i * answer.columns, (i + 1) * answer.columns)
      return {
        columns: answer.columns,
        rows: answer.rows,
        spectrogram: parts[0],
        loudnessDb: floats(parts[1]),
        curves: new Map(answer.units.map((unit, i) => [unit, curve(i)])),
        level: answer.level,
      }
    },
    async spectrum(timeS, rows, filter) {
      const { answer, parts } = await ask({ ask: 'spectrum', time_s: timeS, rows, filter })
      if (answer.is !== 'spectrum') throw new Error('unexpected answer')
      return { rowsDb: floats(parts[0]), partials: answer.partials, explanation: answer.explanation, responseDb: answer.response }
    },
    async loudness(text) {
      const { answer } = await ask({ ask: 'measure', text })
      return answer.is === 'measured' ? answer.level.loudness_lufs : -200
    },
    async bank(text, key) {
      return (await ask({ ask: 'bank', text, key })).parts[0]
    },
    async putClip(content, wav) {
      await ask({ ask: 'put_clip', content }, wav)
    },
    async waveform(text, unit, columns) {
      const { answer, parts } = await ask({ ask: 'waveform', text, unit, columns })
      return { peaks: floats(parts[0]), lengthS: answer.is === 'waveform' ? answer.length_s : 0 }
    },
    async cutTable(file, name, cycle) {
      const read = async (part: Blob) => new Uint8Array(await part.arrayBuffer())
      await ask({ ask: 'look_recording' }, await read(file.slice(0, BEGINNING)))
      const { answer } = await ask({ ask: 'cut_table', name, cycle }, await read(file))
      if (answer.is !== 'text') throw new Error('unexpected answer')
      return answer.text
    },
    async wav(text, bits, rateHz, toItsEnd) {
      const { answer, parts } = await ask({ ask: 'wav', text, bits, rate_hz: rateHz, to_its_end: toItsEnd })
      return { name: answer.is === 'ready' ? answer.file_name : 'note.wav', bytes: parts[0] }
    },
  }
}
