/** Where things lie in the result: frequencies upward, decibels to the left. */
import { HIGHEST_HZ, hzToShare, LOWEST_HZ } from './axis'

/** Room above the plots for the scales' numbers, and below, in pixels. */
export const TOP_PX = 18
const FOOT_PX = 8
/** Width of the spectrum at the cursor, with its labels, and of its plot. */
export const SIDE_PX = 336
export const PLOT_PX = 190
/** What the plot spans, in decibels below full scale. */
export const SPAN_DB = 84

export const plotHeight = (pane: number) => Math.max(40, pane - TOP_PX - FOOT_PX)
/** Height of a frequency over the top of the pane. */
export const hzToY = (height: number, hz: number) => TOP_PX + height * (1 - hzToShare(hz))
export const dbToX = (db: number) => PLOT_PX * (1 - Math.max(0, Math.min(1, (db + SPAN_DB) / SPAN_DB)))
export const MARKS_HZ = [50, 100, 200, 500, 1000, 2000, 5000, 10_000].filter((hz) => hz > LOWEST_HZ && hz < HIGHEST_HZ)
/** A path through values over evenly spaced rows, the lowest frequency at the foot. */
export const rowsPath = (values: ArrayLike<number>, height: number, x: (db: number) => number) =>
  Array.from(values, (db, i) => `${i ? 'L' : 'M'}${x(db).toFixed(1)} ${(TOP_PX + height * (1 - (i + 0.5) / values.length)).toFixed(1)}`).join('')
