/** Where things lie in the result: frequencies upward, decibels to the left. */
import { hzToShare, shareToHz } from './axis'
import type { Span } from '../engine/generated/Span'

/** Room above the plots for the scales' numbers, and below, in pixels. */
export const TOP_PX = 18
const FOOT_PX = 8
/** Width of the spectrum at the cursor, with its labels, and of its plot, which ends where the frequencies' numbers begin. */
export const SIDE_PX = 336
export const PLOT_PX = 150
export const PLOT_LEFT_PX = SIDE_PX - 52 - PLOT_PX
/** What the plot spans, in decibels below full scale. */
export const SPAN_DB = 84

export const plotHeight = (pane: number) => Math.max(40, pane - TOP_PX - FOOT_PX)
/** Height of a frequency over the top of the pane. */
export const hzToY = (height: number, hz: number, span?: Span) => TOP_PX + height * (1 - hzToShare(hz, span))
export const yToHz = (height: number, y: number, span?: Span) => shareToHz(1 - Math.max(0, Math.min(1, (y - TOP_PX) / height)), span)
export const dbToX = (db: number) => PLOT_PX * (1 - Math.max(0, Math.min(1, (db + SPAN_DB) / SPAN_DB)))
/** Frequencies worth a mark: round ones, so many that they do not crowd. */
export function marksHz(span: Span): number[] {
  const octaves = Math.log2(span.to_hz / span.from_hz)
  const each = octaves > 5 ? [1, 2, 5] : octaves > 2 ? [1, 1.5, 2, 3, 5, 7] : Array.from({ length: 90 }, (_, n) => (n + 10) / 10).filter((_, n) => n % (octaves > 1 ? 5 : 2) === 0)
  const all = [10, 100, 1000, 10_000].flatMap((decade) => each.map((part) => part * decade))
  return all.filter((hz) => hz > span.from_hz * 1.02 && hz < span.to_hz / 1.02)
}
/** A path through values over evenly spaced rows, the lowest frequency at the foot. */
export const rowsPath = (values: ArrayLike<number>, height: number, x: (db: number) => number) =>
  Array.from(values, (db, i) => `${i ? 'L' : 'M'}${x(db).toFixed(1)} ${(TOP_PX + height * (1 - (i + 0.5) / values.length)).toFixed(1)}`).join('')
/** Places for labels, each as near to where it belongs as it can be, in order and so far apart. Those that crowd stand around their middle. */
export function spread(wanted: number[], apart: number, first: number, last: number): number[] {
  // groups of labels side by side; two that meet become one
  const groups: { sum: number; count: number }[] = []
  const mean = (group: { sum: number; count: number }) => group.sum / group.count
  wanted.forEach((place, i) => {
    groups.push({ sum: place - i * apart, count: 1 })
    while (groups.length > 1 && mean(groups[groups.length - 2]) > mean(groups[groups.length - 1])) {
      const [a, b] = groups.splice(-2)
      groups.push({ sum: a.sum + b.sum, count: a.count + b.count })
    }
  })
  const begins = groups.flatMap((group) => Array<number>(group.count).fill(mean(group)))
  const most = last - (wanted.length - 1) * apart
  return begins.map((begin, i) => Math.max(first, Math.min(most, begin)) + i * apart)
}
