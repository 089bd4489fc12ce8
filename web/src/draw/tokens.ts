/** Reads the tokens for canvas code. */
export function token(name: string): string {
  return getComputedStyle(window.document.documentElement).getPropertyValue(`--${name}`).trim()
}

export function rgb(hex: string): [number, number, number] {
  const value = parseInt(hex.slice(1), 16)
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255]
}

/** Operators have six inks; the seventh shares the first's ink, told apart by its number and hatch. */
export const inkOf = (unit: number) => `var(--op${((unit - 1) % 6) + 1})`
/** Hatches change once the inks are used up, so that ink and hatch together stay unlike. */
export const hatchOf = (unit: number) => ((unit - 1) + Math.floor((unit - 1) / 6)) % 6
/** Dashes of the rail's centre line: plain, dots, dashes, dash-dot, double, short dashes. */
export const dashOf = (unit: number) => ['', '1 4', '7 4', '8 3 1 3', '14 2', '3 3'][hatchOf(unit)]
