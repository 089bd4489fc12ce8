import type { Unfolded } from '../engine/bench'
import { rgb, token } from './tokens'

/** Paints a spectrogram into a canvas of one pixel a point; the page scales it. Rows run from low (foot) to high. */
export function drawSpectrogram(canvas: HTMLCanvasElement, picture: Unfolded) {
  const context = canvas.getContext('2d')
  if (!context) return
  canvas.width = picture.columns
  canvas.height = picture.rows
  const image = context.createImageData(picture.columns, picture.rows)
  const ramp = rampColours()
  const pixels = new Uint32Array(image.data.buffer)
  for (let row = 0; row < picture.rows; row++) {
    const from = row * picture.columns
    const to = (picture.rows - 1 - row) * picture.columns
    for (let column = 0; column < picture.columns; column++) pixels[to + column] = ramp[picture.spectrogram[from + column]]
  }
  context.putImageData(image, 0, 0)
}

/** 256 colours along the ramp's five tokens, each four bytes as canvases hold them. */
function rampColours(): Uint32Array {
  const stops = [0, 1, 2, 3, 4].map((i) => rgb(token(`sp${i}`)))
  const colours = new Uint8ClampedArray(256 * 4)
  for (let level = 0; level < 256; level++) {
    // the lowest part is noise floor to the eye and stays near the sheet; -18 dB is full ink
    const place = Math.max(0, Math.min(1, (level - 50) / 150)) * 4
    const stop = Math.min(3, Math.floor(place))
    for (let i = 0; i < 3; i++) colours[level * 4 + i] = stops[stop][i] + (stops[stop + 1][i] - stops[stop][i]) * (place - stop)
    colours[level * 4 + 3] = 255
  }
  return new Uint32Array(colours.buffer)
}
