/** Client of the audio thread. Browsers need a gesture before sound: `start` must be called from one. */
import { changes } from './changes'
import { SHARED } from './generated/shared'
import { compiledModule } from './module'

/** What plays is looked at through three windows: 0.68 s below, 0.17 s, and 43 ms above these frequencies. In a long one little is new
 *  from look to look: it is worth one in so many. */
export const LIVE = [
  { bins: 16_384, fromHz: 0, oneIn: 3 },
  { bins: 4096, fromHz: 170, oneIn: 1 },
  { bins: 1024, fromHz: 1300, oneIn: 1 },
] as const

export interface Levels {
  peakLeft: number
  peakRight: number
  /** Where they stand on the meter, 0 to 1. */
  meterLeft: number
  meterRight: number
  voices: number
  /** Lowest gain of the safety limiter since the last look; 1 if it did nothing. */
  guard: number
  /** Share of the time there is that the sound takes. */
  load: number
  /** Notes let go since the start because the machine could not keep up. */
  letGo: number
  /** Quality the sound was lowered to, 0 if it was not. */
  lowered: number
  /** Blocks since the start that took longer than they last: they may have been heard as a gap. */
  late: number
  /** Seconds from the last key struck in silence, as it reached the audio thread, to its sound. */
  keyToSoundS: number
}

export interface Sound {
  start(): Promise<void>
  running(): boolean
  install(program: Uint8Array<ArrayBuffer>): void
  /** Turns everything down by a factor, for comparing. */
  setGain(gain: number): void
  /** Gives a wave to the audio thread, which then tells what it has. */
  shelve(bank: Uint8Array<ArrayBuffer>): void
  /** Calls when a program was refused, and the one of before goes on. */
  onRefused(told: () => void): void
  /** Called with the keys of all waves the audio thread has, each time one was given to it. */
  onHeld(told: (keys: string[]) => void): void
  midi(message: [number, number, number]): void
  /** Plays a score, from where on. */
  play(score: Uint8Array<ArrayBuffer>, how: { from: PlayFrom; looped: boolean }, beatGain: number): void
  stop(): void
  /** Where in what is played it is, in beats; below zero while nothing is. */
  placeBeats(): number
  /** Where sources of movement stand in the newest note; nothing while nothing sounds. */
  places(count: number): number[] | undefined
  /** Keeps all that is heard from now on. */
  record(): void
  /** Ends keeping; gives beats and messages. */
  recorded(): Promise<[number, [number, number, number]][]>
  /** Levels since the last look. */
  levels(): Levels
  /** Level of each of the bins up to half the rate, in dB; gives the width of a bin in hertz, 0 while there is no sound. */
  spectrum(which: number, into: Float32Array<ArrayBuffer>): number
  /** The last samples played, oldest first, into an array of 1024 or fewer. */
  scope(into: Float32Array): void
}

/** In place of what is played, where that was stopped, or from a place in beats. */
export type PlayFrom = 'here' | 'left' | number
/** The same as the module takes it. */
const begin = (from: PlayFrom) => (typeof from === 'number' ? { from: 2, fromBeats: from } : { from: from === 'left' ? 1 : 0, fromBeats: 0 })

/** Bytes of a wave the audio thread places at once. */
const PIECE = 1 << 19

type Parcel = { wave: Uint8Array<ArrayBuffer> } | { program: Uint8Array<ArrayBuffer> } | { score: Uint8Array<ArrayBuffer>; from: number; fromBeats: number; looped: number; gain: number } | { stop: true }
/** Bytes of a message that was kept: when, in beats, and its own three. */
const KEPT = 16

export function makeSound(): Sound {
  const shared = new SharedArrayBuffer(4 * (SHARED.scope + SHARED.scopeFrames))
  const memory = new Float32Array(shared)
  memory[SHARED.guard] = 1
  memory[SHARED.placeBeats] = -1
  let context: AudioContext | undefined
  let node: AudioWorkletNode | undefined
  /** What goes to the audio thread in this order: waves, and the programs that read them. */
  const outbox: Parcel[] = []
  let sending = false
  /** The program the audio thread was given last. */
  let installed: Uint8Array<ArrayBuffer> | undefined
  /** Called when the audio thread is ready for the next piece of a wave, or has taken it. */
  let answered: () => void = () => {}
  /** Whether that was all of it, and not what changed alone. */
  let wasWhole = true
  let tellRefused: () => void = () => {}
  let isToldRefused = false
  let isPlayable = false
  /** Keys pressed before the audio thread and its first program were there: the first note is not lost. */
  let waiting: [number, number, number][] = []
  let tellHeld: (keys: string[]) => void = () => {}
  let tellKept: (kept: ArrayBuffer) => void = () => {}
  let fader: GainNode | undefined
  let analysers: AnalyserNode[] = []
  let gain = 1
  let starting: Promise<void> | undefined

  const post = (to: AudioWorkletNode, message: object, transfer: Transferable[] = []) =>
    new Promise<void>((done) => {
      answered = done
      to.port.postMessage(message, transfer)
    })
  /** Gives a wave to the audio thread in pieces that are placed between two blocks each. */
  async function sendWave(to: AudioWorkletNode, wave: Uint8Array<ArrayBuffer>) {
    await post(to, { room: wave.length })
    for (let at = 0; at < wave.length; at += PIECE) {
      const piece = wave.slice(at, at + PIECE)
      await post(to, { piece, at }, [piece.buffer])
    }
    await post(to, { shelve: true })
  }
  /** Sends what waits, one after the other; keys wait only until there is a first program to play them. */
  async function send() {
    if (sending || !node) return
    sending = true
    for (let next = outbox.shift(); next && node; next = outbox.shift()) {
      if ('wave' in next) {
        await sendWave(node, next.wave)
        continue
      }
      if (!('program' in next)) {
        node.port.postMessage(next)
        continue
      }
      // while a hand moves a value it is a few of many bytes
      const changed = changes(installed, next.program)
      installed = next.program
      wasWhole = !changed
      if (changed) node.port.postMessage({ changed }, [changed.buffer])
      else node.port.postMessage({ program: next.program })
      isPlayable = true
      waiting.forEach((midi) => node?.port.postMessage({ midi }))
      waiting = []
    }
    sending = false
  }
  function give(parcel: Parcel) {
    // of programs in a row only the newest counts
    if ('program' in parcel && outbox.length > 0 && 'program' in outbox[outbox.length - 1]) outbox.pop()
    outbox.push(parcel)
    void send()
  }

  /** The audio thread goes on with the program of before: it is given all of the new one; if it had that, it is told, once. */
  function refused() {
    const program = installed
    installed = undefined
    if (!wasWhole && program) {
      give({ program })
      return
    }
    if (!isToldRefused) tellRefused()
    isToldRefused = true
  }

  async function open() {
    context = new AudioContext({ latencyHint: 'interactive' })
    const [compiled] = await Promise.all([compiledModule(), context.audioWorklet.addModule('/sound.worklet.js')])
    const made = new AudioWorkletNode(context, 'zolvik-sound', {
      numberOfInputs: 0,
      outputChannelCount: [2],
      processorOptions: { compiled, shared, places: SHARED },
    })
    await new Promise((ready) => {
      made.port.onmessage = ready
    })
    made.port.onmessage = ({ data }: MessageEvent<'more' | 'refused' | { held: ArrayBuffer } | { kept: ArrayBuffer }>) => {
      if (data === 'refused') {
        refused()
        return
      }
      if (data !== 'more' && 'kept' in data) {
        tellKept(data.kept)
        return
      }
      answered()
      if (data !== 'more') tellHeld([...new BigUint64Array(data.held)].map((key) => key.toString(16).padStart(16, '0')))
    }
    node = made
    void send()
    fader = new GainNode(context, { gain })
    node.connect(fader).connect(context.destination)
    analysers = LIVE.map(({ bins }) => new AnalyserNode(made.context, { fftSize: 2 * bins, smoothingTimeConstant: 0.5 }))
    for (const analyser of analysers) fader.connect(analyser)
  }

  return {
    async start() {
      // what failed once, with the server gone, is tried again at the next gesture
      starting ??= open().catch((error: unknown) => {
        starting = undefined
        throw error
      })
      await starting
      if (context?.state !== 'running') await context?.resume()
    },
    running: () => context?.state === 'running' && node !== undefined,
    install(program) {
      give({ program })
    },
    setGain(next) {
      gain = next
      if (context) fader?.gain.setTargetAtTime(next, context.currentTime, 0.01)
    },
    onRefused(told) {
      tellRefused = told
    },
    onHeld(told) {
      tellHeld = told
    },
    shelve(wave) {
      give({ wave })
    },
    midi(message) {
      if (node && isPlayable) node.port.postMessage({ midi: message })
      else if (starting) waiting.push(message)
    },
    play: (score, { from, looped }, gain) => give({ score, ...begin(from), looped: looped ? 1 : 0, gain }),
    stop: () => give({ stop: true }),
    placeBeats: () => memory[SHARED.placeBeats],
    places: (count) => (memory[SHARED.voices] > 0 ? Array.from(memory.subarray(SHARED.sources, SHARED.sources + count)) : undefined),
    record: () => node?.port.postMessage({ record: true }),
    recorded: () =>
      new Promise((resolve) => {
        tellKept = (kept) => {
          const view = new DataView(kept)
          const one = (at: number): [number, [number, number, number]] => [view.getFloat64(at, true), [view.getUint8(at + 8), view.getUint8(at + 9), view.getUint8(at + 10)]]
          resolve(Array.from({ length: kept.byteLength / KEPT }, (_, n) => one(n * KEPT)))
        }
        if (node) node.port.postMessage({ record: false })
        else resolve([])
      }),
    levels() {
      const at = (name: keyof Levels) => memory[SHARED[name]]
      const { guard } = SHARED
      const now = { peakLeft: at('peakLeft'), peakRight: at('peakRight'), meterLeft: at('meterLeft'), meterRight: at('meterRight'), voices: at('voices'), guard: at('guard'), load: at('load'), letGo: at('letGo'), lowered: at('lowered'), late: at('late'), keyToSoundS: at('keyToSoundS') }
      memory.fill(0, 0, guard)
      memory[guard] = 1
      return now
    },
    spectrum(which, into) {
      if (!analysers[which] || !context || context.state !== 'running') return 0
      analysers[which].getFloatFrequencyData(into)
      return context.sampleRate / (2 * into.length)
    },
    scope(into) {
      const { scope, scopeFrames, written } = SHARED
      const first = memory[written] + scopeFrames - into.length
      for (let i = 0; i < into.length; i++) into[i] = memory[scope + ((first + i) % scopeFrames)]
    },
  }
}
