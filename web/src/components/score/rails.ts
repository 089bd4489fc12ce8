/** Lines of the rails in the gutter. Which lane and slot a rail has is decided by the core; this only draws. */
import type { Branch } from '../../engine/generated/Branch'
import type { Rail } from '../../engine/generated/Rail'

export interface RowBox {
  top: number
  height: number
}

export interface RailLine {
  route: number
  from: number
  path: string
  widthPx: number
  on: boolean
  end: { x: number; y: number; radius: number }
  arrow: boolean
}

const GUTTER = 84
const FIRST_LANE = 62
const CURVE = 7

export const widthOf = (weight: number) => 1.4 + weight * 4.2

/** Lanes are 15 px apart, closer when there are many. */
function laneX(lane: number, lanes: number): number {
  const step = Math.min(15, (FIRST_LANE - 8) / Math.max(1, lanes - 1))
  return FIRST_LANE - lane * step
}

function arrivalY(branch: Branch, rows: RowBox[], outputY: number): number {
  const row = rows[branch.row]
  if (!row) return outputY
  const room = Math.min(9, 22 / Math.max(1, branch.slots))
  return row.top + 10 + branch.slot * room
}

/** One line for each route, outer lanes first so that inner ones cross over them. */
export function railLines(rails: Rail[], rows: RowBox[], outputY: number): RailLine[] {
  const lanes = Math.max(0, ...rails.map((rail) => rail.lane)) + 1
  const ordered = [...rails].sort((a, b) => b.lane - a.lane)
  return ordered.flatMap((rail) => rail.branches.map((branch) => line(rail, branch, rows, outputY, lanes)))
}

function line(rail: Rail, branch: Branch, rows: RowBox[], outputY: number, lanes: number): RailLine {
  const own = rows[rail.row]
  const widthPx = widthOf(branch.weight)
  const common = { route: branch.route, from: rail.from, widthPx, on: branch.on, arrow: rail.upward }
  if (branch.row === rail.row) {
    const y = own.top + 18
    const path = `M${GUTTER} ${y + 7}h-9a7 7 0 0 1 0 -14h4`
    return { ...common, path, arrow: true, end: { x: GUTTER - 5, y: y - 7, radius: 3 } }
  }
  const x = laneX(rail.lane, lanes)
  const from = own.top + own.height - (rail.upward ? 18 : 9)
  const to = arrivalY(branch, rows, outputY)
  const turn = rail.upward ? -CURVE : CURVE
  const toOutput = branch.row >= rows.length
  const endX = toOutput ? GUTTER : GUTTER - 6
  const path = `M${GUTTER} ${from}H${x + CURVE}Q${x} ${from} ${x} ${from + turn}V${to - turn}Q${x} ${to} ${x + CURVE} ${to}H${endX}`
  return { ...common, path, end: { x: GUTTER - 5, y: to, radius: toOutput ? 0 : 2.6 + branch.weight * 1.6 } }
}
