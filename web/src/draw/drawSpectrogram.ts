import type { Ink, Unfolded } from '../engine/bench'
import { rgb, token } from './tokens'

/** What a canvas holds, one pixel a point; the page scales it. Rows run from low (foot) to high. */
interface Held {
  image: ImageData
  pixels: Uint32Array
}
const holds = new WeakMap<HTMLCanvasElement, Held>()

/** The canvas with as many points; what stood there stays, stretched. */
function held(canvas: HTMLCanvasElement, context: CanvasRenderingContext2D, columns: number, rows: number): Held {
  const known = holds.get(canvas)
  if (known && canvas.width === columns && canvas.height === rows) return known
  let before: HTMLCanvasElement | undefined
  if (known) {
    before = canvas.cloneNode() as HTMLCanvasElement
    before.getContext('2d')?.drawImage(canvas, 0, 0)
  }
  canvas.width = columns
  canvas.height = rows
  if (before) context.drawImage(before, 0, 0, columns, rows)
  const image = context.getImageData(0, 0, columns, rows)
  const now = { image, pixels: new Uint32Array(image.data.buffer) }
  holds.set(canvas, now)
  return now
}

/** Paints a spectrogram; of one that is not whole as many columns of each row as are known, over what stood there. */
export function drawSpectrogram(canvas: HTMLCanvasElement, { columns, rows, spectrogram, fronts }: Pick<Unfolded, 'columns' | 'rows' | 'spectrogram'> & Partial<Ink>) {
  const context = canvas.getContext('2d', { willReadFrequently: true })
  if (!context) return
  const { image, pixels } = held(canvas, context, columns, rows)
  const ramp = rampColours()
  let last = fronts ? 0 : columns
  for (let row = 0; row < rows; row++) {
    const from = row * columns
    const to = (rows - 1 - row) * columns
    const known = fronts ? fronts[row] : columns
    for (let column = 0; column < known; column++) pixels[to + column] = ramp[spectrogram[from + column]]
    last = Math.max(last, known)
  }
  if (last > 0) context.putImageData(image, 0, 0, 0, 0, last, rows)
}

let ramp: { of: string; colours: Uint32Array } | undefined
/** 256 colours along the ramp's five tokens, each four bytes as canvases hold them. */
function rampColours(): Uint32Array {
  const tokens = [0, 1, 2, 3, 4].map((i) => token(`sp${i}`))
  const of = tokens.join()
  if (ramp?.of === of) return ramp.colours
  const stops = tokens.map(rgb)
  const colours = new Uint8ClampedArray(256 * 4)
  for (let level = 0; level < 256; level++) {
    // the lowest part is noise floor to the eye and stays near the sheet; -18 dB is full ink
    const place = Math.max(0, Math.min(1, (level - 50) / 150)) * 4
    const stop = Math.min(3, Math.floor(place))
    for (let i = 0; i < 3; i++) colours[level * 4 + i] = stops[stop][i] + (stops[stop + 1][i] - stops[stop][i]) * (place - stop)
    colours[level * 4 + 3] = 255
  }
  ramp = { of, colours: new Uint32Array(colours.buffer) }
  return ramp.colours
}
