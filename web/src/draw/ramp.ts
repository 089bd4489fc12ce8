import { rgb, token } from './tokens'

/** 256 colours along the ramp's five tokens, each four bytes as canvases hold them. */
export function rampColours(): Uint32Array<ArrayBuffer> {
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
