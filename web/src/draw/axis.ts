import type { Span } from '../engine/generated/Span'

/** The time axis: all plots share it. Positions are CSS pixels from the plot's left edge. */
export interface Axis {
  widthPx: number
  windowS: number
  exponent: number
}

export const timeToX = (axis: Axis, timeS: number) =>
  axis.widthPx * Math.pow(Math.max(0, Math.min(1, timeS / axis.windowS)), axis.exponent)

export const xToTime = (axis: Axis, x: number) =>
  axis.windowS * Math.pow(Math.max(0, Math.min(1, x / axis.widthPx)), 1 / axis.exponent)

/** Times worth a mark, at least some pixels apart. */
export function ticks(axis: Axis): { timeS: number; x: number; label: string }[] {
  const steps = [0.0005, 0.001, 0.002, 0.003, 0.004, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 3, 4, 5, 6, 7, 8, 10, 12, 15, 20]
  const marks: { timeS: number; x: number; label: string }[] = [{ timeS: 0, x: 0, label: '0' }]
  for (const timeS of steps) {
    const x = timeToX(axis, timeS)
    const last = marks[marks.length - 1]
    if (timeS > axis.windowS * 1.0001 || x - last.x < 52) continue
    marks.push({ timeS, x, label: timeS < 1 ? `${timeS < 0.001 ? timeS * 1000 : Math.round(timeS * 1000)} ms` : `${timeS} s` })
  }
  return marks
}

/** Bars and, where there is room, beats: `2.3` is the third beat of the second bar of four. */
export function beatTicks(axis: Axis, beatS: number): { timeS: number; x: number; label: string }[] {
  const beats = Math.floor(axis.windowS / beatS)
  const beatPx = timeToX(axis, beatS)
  const each = [1, 4, 8, 16, 32, 64, 128].find((count) => count * beatPx >= 34) ?? 256
  return Array.from({ length: Math.floor(beats / each) + 1 }, (_, n) => {
    const beat = n * each
    const bar = Math.floor(beat / 4) + 1
    return { timeS: beat * beatS, x: timeToX(axis, beat * beatS), label: beat % 4 ? `${bar}.${(beat % 4) + 1}` : `${bar}` }
  })
}

export const LOWEST_HZ = 20
export const HIGHEST_HZ = 20_000

/** All frequencies there are to look at. */
export const WHOLE: Span = { from_hz: LOWEST_HZ, to_hz: HIGHEST_HZ }

/** Height of a frequency over the foot of the result, 0 to 1 within what is seen; the rows of all spectra lie like this. */
export const hzToShare = (hz: number, { from_hz, to_hz }: Span = WHOLE) => Math.log(hz / from_hz) / Math.log(to_hz / from_hz)

/** The frequency at a height. */
export const shareToHz = (share: number, { from_hz, to_hz }: Span = WHOLE) => from_hz * Math.pow(to_hz / from_hz, share)
