/**
 * A worker's thread. There are two, on the same module: one renders the sound of pictures in slices and does what else takes long, the other draws
 * what comes and measures it. Between slices both look whether the picture is still wanted.
 */
import type { WorkerReply, WorkerRequest, PictureNews, PieceOfPicture } from './workers.messages'
import type { Answer } from './generated/Answer'
import { EVERYTHING } from './listening'
import { startModule, type Module } from './module'
import { WHOLE } from '../draw/axis'
import { makeSpectrogramCanvas } from '../draw/spectrogramCanvas'

let module: Promise<Module> | undefined
/** The picture that is wanted, in memory shared with the page. */
let wanted: Int32Array | undefined
let pair: MessagePort | undefined
const canvas = makeSpectrogramCanvas()

const isWanted = (id: number) => !wanted || Atomics.load(wanted, 0) === id
/** The longest wait for a frame of the page, in milliseconds: what is drawn comes on however much the page has to do. */
const WAY_MS = 8
/** The first slices of a picture never wait: with them its first ink comes. */
const EAGER = 4
/** Waits while the page is at work on a frame; tells how long, in milliseconds. */
function giveWay(): number {
  if (!wanted || !crossOriginIsolated) return 0
  const from = performance.now()
  Atomics.wait(wanted, 1, 1, WAY_MS)
  return performance.now() - from
}
const tell = (news: PictureNews, parts: Uint8Array<ArrayBuffer>[] = []) => self.postMessage(news, { transfer: parts.map((part) => part.buffer) })
const loaded = async () => {
  const wasm = await module
  if (!wasm) throw new Error('asked before the start')
  return wasm
}

/** Lets what else came have its turn; whoever waits goes on in order. */
const turns = new MessageChannel()
const waiting: (() => void)[] = []
turns.port1.onmessage = () => waiting.shift()?.()
const turn = () =>
  new Promise<void>((resolve) => {
    waiting.push(resolve)
    turns.port2.postMessage(0)
  })

async function reply(request: Extract<WorkerRequest, { id: number }>): Promise<WorkerReply> {
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
  const parts = wasm.parts()
  if (request.task.task === 'draw_again') paintWhole(answer, parts)
  return { id: request.id, answer, parts }
}

type PictureRequest = Extract<WorkerRequest, { picture: number }>
/** How many pictures are being rendered, those among them that are not wanted any more and stop at their next turn. */
let rendering = 0
/** The one that renders. */
async function render(request: PictureRequest) {
  rendering++
  await renderWanted(request).finally(() => rendering--)
}
async function renderWanted({ picture: id, of }: PictureRequest) {
  const wasm = await loaded()
  if (!isWanted(id) || !pair) return
  const begun = wasm.ask({ task: 'render', of })
  if (begun.is !== 'renders') return tell({ picture: id, news: 'refused', why: begun.is === 'refused' ? begun.why : '' })
  pair.postMessage({ picture: id, draw: { task: 'draw', of, rate_hz: begun.rate_hz, length_s: begun.length_s } })
  let spentMs = 0
  for (let slice = 0; ; slice++) {
    const waitedMs = slice < EAGER ? 0 : giveWay()
    const from = performance.now()
    const answer = wasm.ask({ task: 'render_on', spent_ms: spentMs, waited_ms: waitedMs })
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

/** A picture that is wanted as long as no other is, and never looked at. */
const NOBODYS = 0
/** Moves of a hand that are made for nobody: what a browser sees run often it makes fast, beside it all, which the first second of a drag would feel. */
const MOVES = 120
const LOOKS_EVERY = 3
/** Between two tries to find nothing else to do, in milliseconds. */
const LATER_MS = 1000
/** Opens a bit of everything and moves a value of it: what the browser makes ready at the first call, and fast at the thousandth, is so then, for all
 *  threads. Draws it too, where there was no picture yet. */
async function warmUp() {
  const wasm = await loaded()
  // not beside a picture that somebody waits for
  if (rendering) return void setTimeout(warmUp, LATER_MS)
  const before = wanted ? Atomics.load(wanted, 0) : NOBODYS
  const answer = wasm.ask({ task: 'everything' })
  if (answer.is !== 'text' || !isWanted(before)) return
  wasm.ask({ ask: 'load', text: answer.text, of: null, steps: null })
  await turn()
  for (let move = 1; move <= MOVES; move++) {
    const address = { param: 'voice.trim_db', id: 0, point: 0 } as const
    wasm.ask({ ask: 'by_hand', on: { of: 'value', address }, asks: { ask: 'drag', address, units: [], start: 0, moved: 0.002 * move, fine: false, gesture: 1 } })
    if (move % LOOKS_EVERY === 1) wasm.ask({ ask: 'view', at_rest: false })
    await turn()
    if (!isWanted(before)) return
  }
  if (before !== NOBODYS) return
  await render({ picture: NOBODYS, of: { text: answer.text, listening: EVERYTHING, exponent: 1, detail: 'coarse', phrase: false, aside: true, voice: false, effect: null, span: WHOLE } })
}

/** Time between two looks at a picture that is drawn, in milliseconds: while the hand moves, and when it rests. */
const LOOK_MS = { coarse: 30, fine: 60 }
let detail: keyof typeof LOOK_MS = 'coarse'
let lookedAt = 0
let inked = false
/** Whether what is drawn is laid beside the picture and is none itself. */
let aside = false

function paintWhole(answer: Answer, parts: Uint8Array<ArrayBuffer>[]) {
  if (answer.is === 'unfolded') canvas.paint({ columns: answer.columns, rows: answer.rows, points: parts[0] })
}

/** The one that draws. */
async function draw(message: PieceOfPicture) {
  const wasm = await loaded()
  const id = message.picture
  if (!isWanted(id)) return
  if ('draw' in message) {
    wasm.ask(message.draw)
    inked = false
    if (message.draw.task === 'draw') ({ detail, aside } = message.draw.of)
    return
  }
  if (inked) giveWay()
  wasm.put(message.piece)
  const look = !aside && !message.last && (!inked || performance.now() - lookedAt > LOOK_MS[detail])
  const answer = wasm.ask({ task: 'draw_on', look })
  if (answer.is === 'refused') return tell({ picture: id, news: 'refused', why: answer.why })
  if (look && answer.is === 'inked' && answer.begun > 0) {
    inked = true
    lookedAt = performance.now()
    const [points, fronts] = wasm.parts()
    canvas.paint({ columns: answer.columns, rows: answer.rows, points, fronts: new Uint16Array(fronts.buffer) })
    tell({ picture: id, news: 'ink' })
  }
  if (!message.last || !isWanted(id)) return
  const whole = wasm.ask({ task: 'draw_end', key: id })
  const parts = wasm.parts()
  if (!aside) paintWhole(whole, parts)
  tell({ picture: id, news: 'whole', answer: whole, parts }, parts)
}

self.onmessage = async (event: MessageEvent<WorkerRequest>) => {
  const asked = event.data
  if ('picture' in asked) return render(asked)
  if ('warmUp' in asked) return warmUp()
  if ('colours' in asked) return asked.canvas ? canvas.take(asked.canvas, asked.colours) : canvas.recolour(asked.colours)
  const answered = await reply(asked)
  self.postMessage(answered, { transfer: answered.parts.map((part) => part.buffer) })
}
// a failure in here is told to the page, as those of other scripts are
self.addEventListener('unhandledrejection', (event) => {
  throw event.reason
})
