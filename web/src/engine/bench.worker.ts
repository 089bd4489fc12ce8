/** The worker's thread: unfolds, measures, renders. */
import { startModule, type Module } from './module'
import type { BenchReply, BenchRequest } from './bench'

let module: Promise<Module> | undefined

async function reply(request: BenchRequest): Promise<BenchReply> {
  if ('bytes' in request) {
    module = startModule(request.bytes)
    await module
    return { id: request.id, answer: { is: 'ready', file_name: '' }, parts: [] }
  }
  const wasm = await module
  if (!wasm) throw new Error('asked before the start')
  if (request.file) wasm.put(request.file)
  const answer = wasm.ask(request.task)
  const parts = wasm.parts()
  return { id: request.id, answer, parts }
}

self.onmessage = async (event: MessageEvent<BenchRequest>) => {
  const answered = await reply(event.data)
  self.postMessage(answered, { transfer: answered.parts.map((part) => part.buffer) })
}
