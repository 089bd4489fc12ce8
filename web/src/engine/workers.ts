/** Client of the two workers. The only module that talks to them. */
import type { WorkerReply, WorkerRequest, PictureNews } from './workers.messages'
import type { Answer } from './generated/Answer'
import type { ExplanationView } from './generated/ExplanationView'
import type { LevelView } from './generated/LevelView'
import type { Listening } from './generated/Listening'
import type { PartialView } from './generated/PartialView'
import type { PictureOf } from './generated/PictureOf'
import type { Span } from './generated/Span'
import type { RenderOf } from './generated/RenderOf'
import type { Task } from './generated/Task'
import { afterFrame, handMoved, isTight } from './frames'
import { EVERYTHING } from './listening'
import { makeLoudness } from './loudness'
import { compiledModule } from './module'
import { floats, makePictures, Superseded, type Unfolded, type Watching } from './pictures'

export { Superseded }
export type { Unfolded } from './pictures'

/** What of a sound is looked at: without effects, or before and after one of them. */
export interface Looking {
  voice: boolean
  effect: number | null
}

export interface Spectrum {
  rowsDb: Float32Array
  /** Where each row stands: -1 is left, 1 is right. */
  rowsPlace: Float32Array
  /** Of an effect looked at, what stands before it; empty if none is. */
  beforeDb: number[]
  partials: PartialView[]
  explanation: ExplanationView
  /** Gain of a filter over the same frequencies, in dB; empty if none was asked for. */
  responseDb: number[]
}

export type Pointed = Extract<Answer, { is: 'pointed' }>

export interface Workers {
  /** A hand moved: where frames come too late, workers give way to the next few. */
  moved(): void
  /** The page is at work until its next frame is drawn: meanwhile workers begin no other slice, if it is short of time. */
  giveWay(): void
  /** Draws a bit of everything for nobody, until something is asked for: what the browser makes ready at the first call is ready then. */
  warmUp(): void
  /** Spectrograms are painted on this canvas from now on. */
  paintOn(canvas: OffscreenCanvas, colours: Uint32Array<ArrayBuffer>): void
  /** 256 colours of four bytes, from silence to full scale. */
  recolour(colours: Uint32Array<ArrayBuffer>): void
  /** A picture; what it is of may have been drawn before, then it is there at once and fine. While a hand moves (`moving`) that is not looked for. */
  unfold(text: () => string, listening: Listening, exponent: number, fine: boolean, phrase: boolean, looking: Looking, span: Span, moving: boolean, watching?: Watching): Promise<Unfolded>
  /** A picture to be laid beside: at the one or the other end of something. */
  ghost(text: string, listening: Listening, exponent: number, phrase: boolean, of: 'low' | 'high', span: Span): Promise<Unfolded>
  /** At a moment: what is heard, what theory makes of it, and the response of a filter if one is asked for. */
  spectrum(timeS: number, rows: number, span: Span, filter: number | null): Promise<Spectrum>
  /** What stands at a point of the last picture, in words. */
  point(timeS: number, hz: number): Promise<Pointed>
  /** Highest and lowest samples of stretches of the last picture's sound, by turns: left and right. */
  cycles(fromS: number, toS: number, columns: number): Promise<[Float32Array, Float32Array]>
  /** Loudness of the auditioned note, in LUFS; of several for the same purpose only the newest is answered. */
  loudness(text: string, listening: Listening, purpose: string, urgent?: boolean): Promise<number>
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
  /** How loud a file would be; of several asked for only the newest is answered. */
  level(text: string, listening: Listening, what: RenderOf): Promise<{ level: LevelView; of: string }>
  wav(text: string, listening: Listening | undefined, bits: number, rateHz: number, toItsEnd: boolean, what: RenderOf): Promise<{ name: string; bytes: Uint8Array<ArrayBuffer> }>
}

/** What waits, most urgent first: what sounds, then what is seen. */
const URGENCY = ['start', 'clip', 'bank', 'table', 'spectrum', 'waveform', 'file'] as const
type Kind = (typeof URGENCY)[number]
/** What has waited this long goes before all that is more urgent, in milliseconds. */
const LONG_MS = 250

interface Job {
  kind: Kind
  /** Of two with the same key the newer one takes the older one's place. */
  key: string | null
  make: (id: number) => WorkerRequest
  resolve: (reply: WorkerReply) => void
  reject: (error: Error) => void
  since: number
}

/** What waits for the worker. Only one request is with it at a time, so that newer ones can overtake and outlive older ones. */
function makeQueue(post: (request: WorkerRequest) => void) {
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
      new Promise<WorkerReply>((resolve, reject) => {
        const older = key === null ? undefined : jobs.find((job) => job.kind === kind && job.key === key)
        older?.reject(new Superseded())
        jobs = jobs.filter((job) => job !== older)
        // the newer one has waited as long as the one it replaces: what keeps being replaced is still done in time
        jobs.push({ kind, key, make, resolve, reject, since: older?.since ?? performance.now() })
        next()
      }),
    answer(reply: WorkerReply) {
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

let shared: Workers | undefined
/** The one worker of the page. */
export function workers(): Workers {
  shared ??= startWorkers()
  return shared
}

/** A worker and what waits for it. */
function startWorker(news: (news: PictureNews) => void, failed: (why: string) => void) {
  const worker = new Worker(new URL('./tasks.worker.ts', import.meta.url), { type: 'module' })
  const queue = makeQueue((request) => worker.postMessage(request, 'compiled' in request ? [request.pair] : []))
  worker.onmessage = ({ data }: MessageEvent<WorkerReply | PictureNews>) => ('news' in data ? news(data) : queue.answer(data))
  worker.onerror = (event) => {
    const why = `the picture cannot be drawn: ${event.message || 'the worker did not start'}`
    queue.fail(why)
    failed(why)
  }
  return { queue, post: (request: WorkerRequest, transfer: Transferable[] = []) => worker.postMessage(request, transfer) }
}

function startWorkers(): Workers {
  const news = (one: PictureNews) => pictures.hear(one)
  const failed = (why: string) => pictures.fail(why)
  const renders = startWorker(news, failed)
  const draws = startWorker(news, failed)
  // shared where the page may share: both look at it between slices
  const wanted = new Int32Array(crossOriginIsolated ? new SharedArrayBuffer(8) : new ArrayBuffer(8))
  const drawn = () => {
    Atomics.store(wanted, 1, 0)
    Atomics.notify(wanted, 1)
  }
  const { port1, port2 } = new MessageChannel()
  const start = (worker: typeof renders, pair: MessagePort) => compiledModule().then((compiled) => worker.queue.ask('start', null, (id) => ({ id, compiled, wanted, pair })))
  const started = Promise.all([start(renders, port1), start(draws, port2)])
  /** They were: what is posted from then on goes at once. */
  let isStarted = false
  started.then(() => (isStarted = true), () => {})
  const askOf = async (worker: typeof renders, kind: Kind, key: string | null, task: Task, file?: Uint8Array<ArrayBuffer>) => {
    await started
    return worker.queue.ask(kind, key, (id) => ({ id, task, file }))
  }
  const ask = (kind: Kind, key: string | null, task: Task, file?: Uint8Array<ArrayBuffer>) => askOf(renders, kind, key, task, file)
  const pictures = makePictures({
    post: (picture, of) => (isStarted ? renders.post({ picture, of }) : void started.then(() => renders.post({ picture, of }))),
    want: (id) => Atomics.store(wanted, 0, id),
    again: (key) => askOf(draws, 'spectrum', `again ${key}`, { task: 'draw_again', key }),
    drawn: (of, picture) => loudness.learn(of, picture),
  })
  const loudness = makeLoudness(pictures.ask)
  /** Banks under way, so that none is made twice at once. */
  const banks = new Map<string, Promise<Uint8Array<ArrayBuffer>>>()
  /** The first bytes tell whether a file is worth reading whole. */
  const BEGINNING = 65_536
  const giveWay = () => {
    if (isTight() && Atomics.exchange(wanted, 1, 1) === 0) afterFrame(drawn)
  }
  return {
    moved() {
      handMoved(performance.now())
      giveWay()
    },
    giveWay,
    warmUp: () => void started.then(() => renders.post({ warmUp: true }), () => {}),
    paintOn: (canvas, colours) => draws.post({ canvas, colours }, [canvas]),
    recolour: (colours) => draws.post({ colours }),
    unfold(text, listening, exponent, fine, phrase, { voice, effect }, span, moving, watching) {
      const detail = fine ? 'fine' : 'coarse'
      const of = (): PictureOf => ({ text: text(), listening, exponent, detail, phrase, aside: false, voice, effect, span: { ...span } })
      return pictures.ask({ of, detail, aside: false }, 'picture', moving, watching)
    },
    ghost(text, listening, exponent, phrase, which, span) {
      const of: PictureOf = { text, listening, exponent, detail: 'coarse', phrase, aside: true, voice: true, effect: null, span: { ...span } }
      return pictures.ask({ of: () => of, detail: 'coarse', aside: true }, which, false)
    },
    async spectrum(timeS, rows, span, filter) {
      const { answer, parts } = await askOf(draws, 'spectrum', 'spectrum', { task: 'spectrum', time_s: timeS, rows, span: { ...span }, filter })
      if (answer.is !== 'spectrum') throw new Error('unexpected answer')
      return { rowsDb: floats(parts[0]), rowsPlace: floats(parts[1]), beforeDb: answer.before_db, partials: answer.partials, explanation: answer.explanation, responseDb: answer.response }
    },
    async point(timeS, hz) {
      const { answer } = await askOf(draws, 'spectrum', 'point', { task: 'point', time_s: timeS, hz })
      if (answer.is !== 'pointed') throw new Error('unexpected answer')
      return answer
    },
    async cycles(fromS, toS, columns) {
      const { parts } = await askOf(draws, 'spectrum', 'cycles', { task: 'cycles', from_s: fromS, to_s: toS, columns })
      return [floats(parts[0]), floats(parts[1])]
    },
    load() {
      const [a, b] = [renders.queue.load(), draws.queue.load()]
      return { waiting: a.waiting + b.waiting + (pictures.busy() ? 1 : 0), oldestMs: Math.max(a.oldestMs, b.oldestMs) }
    },
    loudness: loudness.of,
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
    async level(text, listening, what) {
      const { answer } = await ask('file', 'level', { task: 'level', text, listening, what })
      if (answer.is !== 'level') throw new Error('unexpected answer')
      return answer
    },
    async wav(text, listening, bits, rateHz, toItsEnd, what) {
      const { answer, parts } = await ask('file', null, { task: 'wav', text, bits, rate_hz: rateHz, to_its_end: toItsEnd, listening: listening ?? EVERYTHING, what })
      return { name: answer.is === 'ready' ? answer.file_name : 'note.wav', bytes: parts[0] }
    },
  }
}
