/**
 * A worker's thread. There are two, on the same module: one renders the sound of pictures in slices and does what else takes long, the other draws
 * what comes and measures it. Between slices both look whether the picture is still wanted.
 */
import type { BenchReply, BenchRequest, PictureNews, PieceOfPicture } from './bench.messages'
import { startModule, type Module } from './module'

let module: Promise<Module> | undefined
/** The picture that is wanted, in memory shared with the page. */
let wanted: Int32Array | undefined
let pair: MessagePort | undefined

const isWanted = (id: number) => !wanted || Atomics.load(wanted, 0) === id
const tell = (news: PictureNews, parts: Uint8Array<ArrayBuffer>[] = []) => self.postMessage(news, { transfer: parts.map((part) => part.buffer) })
const loaded = async () => {
  const wasm = await module
  if (!wasm) throw new Error('asked before the start')
  return wasm
}

/** Lets what else came have its turn. */
const turns = new MessageChannel()
const turn = () =>
  new Promise<void>((resolve) => {
    turns.port1.onmessage = () => resolve()
    turns.port2.postMessage(0)
  })

async function reply(request: Exclude<BenchRequest, { picture: number }>): Promise<BenchReply> {
  if ('compiled' in request) {
    module = startModule(request.compiled)
    wanted = request.wanted
    pair = request.pair
    pair.onmessage = (event: MessageEvent<PieceOfPicture>) => void draw(event.data)
    await module
    return { id: request.id, answer: { is: 'ready', file_name: '' }, parts: [] }
  }
  const wasm = await loaded()
  if (request.file) wasm.put(request.file)
  const answer = wasm.ask(request.task)
  return { id: request.id, answer, parts: wasm.parts() }
}

/** The one that renders. */
async function render({ picture: id, of }: { picture: number; of: Extract<BenchRequest, { picture: number }>['of'] }) {
  const wasm = await loaded()
  if (!isWanted(id) || !pair) return
  const begun = wasm.ask({ task: 'render', of })
  if (begun.is !== 'renders') return tell({ picture: id, news: 'refused', why: begun.is === 'refused' ? begun.why : '' })
  pair.postMessage({ picture: id, draw: { task: 'draw', of, rate_hz: begun.rate_hz, length_s: begun.length_s } })
  let spentMs = 0
  for (;;) {
    const from = performance.now()
    const answer = wasm.ask({ task: 'render_on', spent_ms: spentMs })
    const [piece] = wasm.parts()
    spentMs = performance.now() - from
    if (answer.is !== 'rendered') return
    if (!answer.more) tell({ picture: id, news: 'rendered', effects: answer.effects })
    pair.postMessage({ picture: id, piece, last: !answer.more }, [piece.buffer])
    if (!answer.more) break
    await turn()
    if (!isWanted(id)) return
  }
  // how else chance might have it; a phrase is many notes
  if (of.detail !== 'fine' || of.aside) return
  if (of.phrase) return tell({ picture: id, news: 'chance', chancy: [], bands: new Uint8Array() })
  for (;;) {
    await turn()
    if (!isWanted(id)) return
    const answer = wasm.ask({ task: 'chance', exponent: of.exponent })
    if (answer.is !== 'chance') return
    if (answer.more) continue
    tell({ picture: id, news: 'chance', chancy: answer.chancy, bands: wasm.parts()[0] })
    return
  }
}

/** Time between two looks at a picture that is drawn, in milliseconds: while the hand moves, and when it rests. */
const LOOK_MS = { coarse: 14, fine: 60 }
let detail: keyof typeof LOOK_MS = 'coarse'
let lookedAt = 0
let inked = false

/** The one that draws. */
async function draw(message: PieceOfPicture) {
  const wasm = await loaded()
  const id = message.picture
  if (!isWanted(id)) return
  if ('draw' in message) {
    wasm.ask(message.draw)
    inked = false
    if (message.draw.task === 'draw') detail = message.draw.of.detail
    return
  }
  wasm.put(message.piece)
  const look = !message.last && (!inked || performance.now() - lookedAt > LOOK_MS[detail])
  const answer = wasm.ask({ task: 'draw_on', look })
  if (answer.is === 'refused') return tell({ picture: id, news: 'refused', why: answer.why })
  if (look && answer.is === 'inked' && answer.begun > 0) {
    inked = true
    lookedAt = performance.now()
    const parts = wasm.parts()
    tell({ picture: id, news: 'ink', columns: answer.columns, rows: answer.rows, parts }, parts)
  }
  if (!message.last || !isWanted(id)) return
  const whole = wasm.ask({ task: 'draw_end', key: id })
  const parts = wasm.parts()
  tell({ picture: id, news: 'whole', answer: whole, parts }, parts)
}

self.onmessage = async (event: MessageEvent<BenchRequest>) => {
  if ('picture' in event.data) return render(event.data)
  const answered = await reply(event.data)
  self.postMessage(answered, { transfer: answered.parts.map((part) => part.buffer) })
}
// a failure in here is told to the page, as those of other scripts are
self.addEventListener('unhandledrejection', (event) => {
  throw event.reason
})
