/** Client of the worker. The only module that talks to it. */
import type { Answer } from './generated/Answer'
import type { BandLevelView } from './generated/BandLevelView'
import type { EffectLevelView } from './generated/EffectLevelView'
import type { ExplanationView } from './generated/ExplanationView'
import type { LevelView } from './generated/LevelView'
import type { Listening } from './generated/Listening'
import type { PartialView } from './generated/PartialView'
import type { RenderOf } from './generated/RenderOf'
import type { Task } from './generated/Task'
import { moduleBytes } from './module'

export type BenchRequest = { id: number; bytes: ArrayBuffer } | { id: number; task: Task; file?: Uint8Array<ArrayBuffer> }
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
  /** For each source of movement where it stands, 0 to 1. */
  places: Map<number, Float32Array>
  /** For each link where on its bar what it moves lies. */
  moved: Map<number, Float32Array>
  /** For each send whose depth is moved how many times as strong it is as by itself. */
  depths: Map<number, Float32Array>
  /** For each source that chance touches its lowest and highest places with other seeds. */
  bands: Map<number, { low: Float32Array; high: Float32Array }>
  /** Levels before and after each effect. */
  effects: EffectLevelView[]
  /** By how much the effect looked at changes the level, at each column, in dB; empty where it does not. */
  gainDb: number[]
  /** The sound by bands; empty in a coarse picture. */
  levels: BandLevelView[]
  level: LevelView
}

/** What of a sound is looked at: without effects, or before and after one of them. */
export interface Looking {
  voice: boolean
  effect: number | null
}

export interface Spectrum {
  rowsDb: Float32Array
  /** Of an effect looked at, what stands before it; empty if none is. */
  beforeDb: number[]
  partials: PartialView[]
  explanation: ExplanationView
  /** Gain of a filter over the same frequencies, in dB; empty if none was asked for. */
  responseDb: number[]
}

export interface Bench {
  unfold(text: string, listening: Listening, exponent: number, fine: boolean, phrase: boolean, looking: Looking): Promise<Unfolded>
  /** A picture to be laid beside: at the one or the other end of something. */
  ghost(text: string, listening: Listening, exponent: number, phrase: boolean, of: 'low' | 'high'): Promise<Unfolded>
  /** At a moment: what is heard, what theory makes of it, and the response of a filter if one is asked for. */
  spectrum(timeS: number, rows: number, filter: number | null): Promise<Spectrum>
  /** Loudness of the auditioned note, in LUFS; of several for the same purpose only the newest is answered. */
  loudness(text: string, of: string, listening?: Listening): Promise<number>
  /** How many requests wait, and how long the oldest has, in milliseconds. */
  load(): { waiting: number; oldestMs: number }
  /** Bytes of a wave for the audio thread; the newest wave asked for is made, those still waiting are superseded. */
  bank(text: string, key: string): Promise<Uint8Array<ArrayBuffer>>
  /** Takes a recording's WAV, for all patches that play it. */
  putClip(content: string, wav: Uint8Array<ArrayBuffer>): Promise<void>
  /** Highest and lowest samples of stretches of what a sample plays, in turn. */
  waveform(text: string, unit: number, columns: number): Promise<{ peaks: Float32Array; lengthS: number }>
  /** Cuts a table from a WAV file: by a cycle's samples, or by pitch. Gives the table's JSON. */
  cutTable(file: File, name: string, cycle: number | null): Promise<string>
  wav(text: string, listening: Listening | undefined, bits: number, rateHz: number, toItsEnd: boolean, what: RenderOf): Promise<{ name: string; bytes: Uint8Array<ArrayBuffer> }>
}

/** What was asked for is no longer wanted: something newer of its kind was. */
export class Superseded extends Error {
  constructor() {
    super('something newer was asked for')
  }
}

/** Nothing muted. */
export const EVERYTHING: Listening = { muted: [], soloed: [], bypassed: [], muted_routes: [], soloed_routes: [], muted_sources: [], soloed_sources: [], muted_links: [], soloed_links: [], muted_chains: [], soloed_chains: [], up_to: null, band_alone: null }
/** What waits, most urgent first: what sounds and how loud it is made, then what is seen. */
const URGENCY = ['start', 'clip', 'bank', 'table', 'loudness', 'spectrum', 'unfold', 'ghost', 'waveform', 'file'] as const
type Kind = (typeof URGENCY)[number]
/** What has waited this long goes before all that is more urgent, in milliseconds. */
const LONG_MS = 250

interface Job {
  kind: Kind
  /** Of two with the same key the newer one takes the older one's place. */
  key: string | null
  make: (id: number) => BenchRequest
  resolve: (reply: BenchReply) => void
  reject: (error: Error) => void
  since: number
}

/** What waits for the worker. Only one request is with it at a time, so that newer ones can overtake and outlive older ones. */
function makeQueue(post: (request: BenchRequest) => void) {
  let jobs: Job[] = []
  let running: (Job & { id: number }) | undefined
  let last = 0

  function next() {
    if (running || jobs.length === 0) return
    const now = performance.now()
    // nothing starves after what keeps coming: the oldest of those that waited long goes first
    const urgency = (job: Job) => (now - job.since > LONG_MS ? job.since - now : URGENCY.indexOf(job.kind))
    const first = jobs.reduce((a, b) => (urgency(b) < urgency(a) ? b : a))
    jobs = jobs.filter((job) => job !== first)
    running = { ...first, id: ++last }
    post(first.make(running.id))
  }
  return {
    ask: (kind: Kind, key: string | null, make: Job['make']) =>
      new Promise<BenchReply>((resolve, reject) => {
        const older = key === null ? undefined : jobs.find((job) => job.kind === kind && job.key === key)
        older?.reject(new Superseded())
        jobs = jobs.filter((job) => job !== older)
        // the newer one has waited as long as the one it replaces: what keeps being replaced is still done in time
        jobs.push({ kind, key, make, resolve, reject, since: older?.since ?? performance.now() })
        next()
      }),
    answer(reply: BenchReply) {
      if (running?.id !== reply.id) return
      const job = running
      running = undefined
      next()
      if (reply.answer.is === 'refused') job.reject(new Error(reply.answer.why))
      else job.resolve(reply)
    },
    fail(why: string) {
      const all = [...(running ? [running] : []), ...jobs]
      running = undefined
      jobs = []
      all.forEach((job) => job.reject(new Error(why)))
    },
    /** How many wait, and how long the oldest has, in milliseconds. */
    load() {
      const all = [...(running ? [running] : []), ...jobs]
      return { waiting: all.length, oldestMs: Math.max(0, ...all.map((job) => performance.now() - job.since)) }
    },
  }
}

let shared: Bench | undefined
/** The one worker of the page. */
export function bench(): Bench {
  shared ??= startBench()
  return shared
}

function startBench(): Bench {
  const worker = new Worker(new URL('./bench.worker.ts', import.meta.url), { type: 'module' })
  const queue = makeQueue((request) => worker.postMessage(request))
  worker.onmessage = (event: MessageEvent<BenchReply>) => queue.answer(event.data)
  worker.onerror = (event) => queue.fail(`the picture cannot be drawn: ${event.message || 'the worker did not start'}`)
  const started = moduleBytes().then((bytes) => queue.ask('start', null, (id) => ({ id, bytes })))
  const ask = async (kind: Kind, key: string | null, task: Task, file?: Uint8Array<ArrayBuffer>) => {
    await started
    return queue.ask(kind, key, (id) => ({ id, task, file }))
  }
  /** Banks under way, so that none is made twice at once. */
  const banks = new Map<string, Promise<Uint8Array<ArrayBuffer>>>()
  /** The first bytes tell whether a file is worth reading whole. */
  const BEGINNING = 65_536
  const floats = (part: Uint8Array<ArrayBuffer>) => new Float32Array(part.buffer)
  function drawn({ answer, parts }: BenchReply): Unfolded {
    if (answer.is !== 'unfolded') throw new Error('unexpected answer')
    const all = floats(parts[2])
    const curve = (i: number) => all.subarray(i * answer.columns, (i + 1) * answer.columns)
    const moving = floats(parts[3])
    const movement = (i: number) => moving.subarray(i * answer.columns, (i + 1) * answer.columns)
    return {
      columns: answer.columns,
      rows: answer.rows,
      spectrogram: parts[0],
      loudnessDb: floats(parts[1]),
      curves: new Map(answer.units.map((unit, i) => [unit, curve(i)])),
      places: new Map(answer.sources.map((source, i) => [source, movement(i)])),
      moved: new Map(answer.links.map((link, i) => [link, movement(answer.sources.length + i)])),
      depths: new Map(answer.sends.map((send, i) => [send, movement(answer.sources.length + answer.links.length + i)])),
      bands: new Map(answer.chancy.map((source, i) => [source, { low: floats(parts[4]).subarray(2 * i * answer.columns, (2 * i + 1) * answer.columns), high: floats(parts[4]).subarray((2 * i + 1) * answer.columns, (2 * i + 2) * answer.columns) }])),
      effects: answer.effects,
      gainDb: answer.gain_db,
      levels: answer.bands,
      level: answer.level,
    }
  }
  return {
    async unfold(text, listening, exponent, fine, phrase, { voice, effect }) {
      return drawn(await ask('unfold', 'unfold', { task: 'unfold', text, listening, exponent, detail: fine ? 'fine' : 'coarse', phrase, aside: false, voice, effect }))
    },
    async ghost(text, listening, exponent, phrase, of) {
      return drawn(await ask('ghost', of, { task: 'unfold', text, listening, exponent, detail: 'coarse', phrase, aside: true, voice: true, effect: null }))
    },
    async spectrum(timeS, rows, filter) {
      const { answer, parts } = await ask('spectrum', 'spectrum', { task: 'spectrum', time_s: timeS, rows, filter })
      if (answer.is !== 'spectrum') throw new Error('unexpected answer')
      return { rowsDb: floats(parts[0]), beforeDb: answer.before_db, partials: answer.partials, explanation: answer.explanation, responseDb: answer.response }
    },
    load: queue.load,
    async loudness(text, of, listening = EVERYTHING) {
      const { answer } = await ask('loudness', of, { task: 'measure', text, listening, voice: false })
      return answer.is === 'measured' ? answer.level.loudness_lufs : -200
    },
    bank(text, key) {
      const under = banks.get(key)
      if (under) return under
      const made = ask('bank', 'bank', { task: 'bank', text, key }).then((reply) => reply.parts[0]).finally(() => banks.delete(key))
      banks.set(key, made)
      return made
    },
    async putClip(content, wav) {
      await ask('clip', null, { task: 'put_clip', content }, wav)
    },
    async waveform(text, unit, columns) {
      const { answer, parts } = await ask('waveform', `${unit}`, { task: 'waveform', text, unit, columns })
      return { peaks: floats(parts[0]), lengthS: answer.is === 'waveform' ? answer.length_s : 0 }
    },
    async cutTable(file, name, cycle) {
      const read = async (part: Blob) => new Uint8Array(await part.arrayBuffer())
      await ask('table', null, { task: 'look_recording' }, await read(file.slice(0, BEGINNING)))
      const { answer } = await ask('table', null, { task: 'cut_table', name, cycle }, await read(file))
      if (answer.is !== 'text') throw new Error('unexpected answer')
      return answer.text
    },
    async wav(text, listening, bits, rateHz, toItsEnd, what) {
      const { answer, parts } = await ask('file', null, { task: 'wav', text, bits, rate_hz: rateHz, to_its_end: toItsEnd, listening: listening ?? EVERYTHING, what })
      return { name: answer.is === 'ready' ? answer.file_name : 'note.wav', bytes: parts[0] }
    },
  }
}
