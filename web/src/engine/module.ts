/** One instance of the browser module: questions in, answers and bytes out. */
import type { Answer } from './generated/Answer'
import type { Question } from './generated/Question'
import type { Task } from './generated/Task'

interface Exports {
  memory: WebAssembly.Memory
  zolvik_alloc(length: number): number
  zolvik_free(pointer: number, length: number): void
  zolvik_ask(pointer: number, length: number): number
  zolvik_answer(): number
  zolvik_put(pointer: number, length: number): void
  zolvik_binary(which: number): number
  zolvik_binary_length(which: number): number
}

/** What can be fetched as bytes; the numbers are those of `protocol.rs`. */
export const Binary = { program: 0, spectrogram: 1, loudness: 2, curves: 3, spectrum: 4, file: 5, bank: 6, waveform: 7 } as const

export interface Module {
  ask(question: Question | Task): Answer
  /** Gives a file to the next question. */
  put(bytes: Uint8Array): void
  /** A copy of the bytes. */
  binary(which: number): Uint8Array<ArrayBuffer>
  floats(which: number): Float32Array<ArrayBuffer>
}

const encoder = new TextEncoder()
const decoder = new TextDecoder()

export async function startModule(bytes: BufferSource): Promise<Module> {
  const { instance } = await WebAssembly.instantiate(bytes, {})
  const wasm = instance.exports as unknown as Exports
  const binary = (which: number) => {
    const start = wasm.zolvik_binary(which)
    return new Uint8Array(wasm.memory.buffer.slice(start, start + wasm.zolvik_binary_length(which)) as ArrayBuffer)
  }
  /** Lends bytes to the module for one call. */
  function lend<T>(bytes: Uint8Array, call: (pointer: number, length: number) => T): T {
    const pointer = wasm.zolvik_alloc(bytes.length)
    new Uint8Array(wasm.memory.buffer, pointer, bytes.length).set(bytes)
    const result = call(pointer, bytes.length)
    wasm.zolvik_free(pointer, bytes.length)
    return result
  }
  return {
    put: (bytes) => lend(bytes, wasm.zolvik_put),
    ask(question) {
      const length = lend(encoder.encode(JSON.stringify(question)), wasm.zolvik_ask)
      return JSON.parse(decoder.decode(new Uint8Array(wasm.memory.buffer, wasm.zolvik_answer(), length))) as Answer
    },
    binary,
    floats: (which) => new Float32Array(binary(which).buffer),
  }
}

let fetched: Promise<ArrayBuffer> | undefined

/** The module's file, fetched once. */
export function moduleBytes(): Promise<ArrayBuffer> {
  fetched ??= fetch('/engine.wasm').then((response) => {
    if (!response.ok) throw new Error(`the sound engine could not be loaded (${response.status}); reload the page`)
    return response.arrayBuffer()
  })
  // a failure is no answer for good
  fetched.catch(() => (fetched = undefined))
  return fetched
}
