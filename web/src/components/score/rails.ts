/** Lines of the rails in the gutter. Which lane and slot a rail has is decided by the core; this only draws. */
import type { Branch } from '../../engine/generated/Branch'
import type { Rail } from '../../engine/generated/Rail'
import type { RouteKind } from '../../engine/generated/RouteKind'

export interface RowBox {
  top: number
  height: number
}

/** Sizes of a drawing of rails, in pixels. */
export interface RailSizes {
  gutter: number
  firstLane: number
  laneStep: number
  curve: number
  /** Without room for rows' margins. */
  small: boolean
}

export interface RailLine {
  route: number
  from: number
  path: string
  widthPx: number
  on: boolean
  kind: RouteKind | null
  end: { x: number; y: number; radius: number }
  arrow: boolean
}

const LARGE: RailSizes = { gutter: 84, firstLane: 62, laneStep: 15, curve: 7, small: false }

export const widthOf = (weight: number) => 1.4 + weight * 4.2

/** Lanes stand closer when there are many. */
function laneX(lane: number, lanes: number, sizes: RailSizes): number {
  const step = Math.min(sizes.laneStep, (sizes.firstLane - (sizes.small ? 2 : 8)) / Math.max(1, lanes - 1))
  return sizes.firstLane - lane * step
}

function arrivalY(branch: Branch, rows: RowBox[], outputY: number, small: boolean): number {
  const row = rows[branch.row]
  if (!row) return outputY
  if (small) return row.top + 3
  const room = Math.min(9, 22 / Math.max(1, branch.slots))
  return row.top + 10 + branch.slot * room
}

/** One line for each route, outer lanes first so that inner ones cross over them. */
export function railLines(rails: Rail[], rows: RowBox[], outputY: number, sizes = LARGE): RailLine[] {
  const lanes = Math.max(0, ...rails.map((rail) => rail.lane)) + 1
  const ordered = [...rails].sort((a, b) => b.lane - a.lane)
  return ordered.flatMap((rail) => rail.branches.map((branch) => line(rail, branch, rows, outputY, lanes, sizes)))
}

function line(rail: Rail, branch: Branch, rows: RowBox[], outputY: number, lanes: number, sizes: RailSizes): RailLine {
  const own = rows[rail.row]
  const { gutter, curve, small } = sizes
  const widthPx = widthOf(branch.weight)
  const common = { route: branch.route, from: rail.from, widthPx, on: branch.on, kind: branch.kind, arrow: rail.upward }
  if (branch.row === rail.row) {
    const y = own.top + (small ? 5 : 18)
    const bend = small ? 2 : 7
    const path = `M${gutter} ${y + bend}h-${bend + 2}a${bend} ${bend} 0 0 1 0 -${2 * bend}h4`
    return { ...common, path, arrow: true, end: { x: gutter - 5, y: y - bend, radius: small ? 0 : 3 } }
  }
  const x = laneX(rail.lane, lanes, sizes)
  const from = own.top + (small ? 7 : own.height - (rail.upward ? 18 : 9))
  const to = arrivalY(branch, rows, outputY, small)
  const turn = rail.upward ? -curve : curve
  const toOutput = branch.row >= rows.length
  const end = small ? 2 : 5
  const endX = toOutput ? gutter : gutter - end - 1
  const path = `M${gutter} ${from}H${x + curve}Q${x} ${from} ${x} ${from + turn}V${to - turn}Q${x} ${to} ${x + curve} ${to}H${endX}`
  return { ...common, path, end: { x: gutter - end, y: to, radius: toOutput ? 0 : 2.6 + branch.weight * 1.6 } }
}
