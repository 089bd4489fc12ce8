/** One instance of the browser module: questions in, answers and bytes out. */
import location from '../../module/engine.wasm?url'

import type { Answer } from './generated/Answer'
import type { Question } from './generated/Question'
import type { Task } from './generated/Task'

interface Exports {
  memory: WebAssembly.Memory
  zolvik_alloc(length: number): number
  zolvik_free(pointer: number, length: number): void
  zolvik_ask(pointer: number, length: number): number
  zolvik_do(pointer: number, length: number): number
  zolvik_answer(): number
  zolvik_put(pointer: number, length: number): void
  zolvik_parts(): number
  zolvik_part(which: number): number
  zolvik_part_length(which: number): number
}

export interface Module {
  ask(question: Question | Task): Answer
  /** Gives a file to the next question. */
  put(bytes: Uint8Array): void
  /** Copies of what goes with the last answer, in the order its kind says. */
  parts(): Uint8Array<ArrayBuffer>[]
}

const encoder = new TextEncoder()
const decoder = new TextDecoder()

export async function startModule(compiled: WebAssembly.Module): Promise<Module> {
  const instance = await WebAssembly.instantiate(compiled, {})
  const wasm = instance.exports as unknown as Exports
  const part = (which: number) => {
    const start = wasm.zolvik_part(which)
    return new Uint8Array(wasm.memory.buffer.slice(start, start + wasm.zolvik_part_length(which)) as ArrayBuffer)
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
      const length = lend(encoder.encode(JSON.stringify(question)), 'task' in question ? wasm.zolvik_do : wasm.zolvik_ask)
      return JSON.parse(decoder.decode(new Uint8Array(wasm.memory.buffer, wasm.zolvik_answer(), length))) as Answer
    },
    parts: () => Array.from({ length: wasm.zolvik_parts() }, (_, which) => part(which)),
  }
}

let compiled: Promise<WebAssembly.Module> | undefined

/** The module, compiled once while it comes; workers and the audio thread are given it as it is. Its name tells its content, so that
 *  the browser keeps it, and what it made of it, from one opening to the next. */
export function compiledModule(): Promise<WebAssembly.Module> {
  compiled ??= fetch(location).then((response) => {
    if (!response.ok) throw new Error(`the sound engine could not be loaded (${response.status}); reload the page`)
    return WebAssembly.compileStreaming(response)
  })
  // a failure is no answer for good
  compiled.catch(() => (compiled = undefined))
  return compiled
}
