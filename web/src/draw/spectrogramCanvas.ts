/** A canvas that shows spectrograms, for the worker that draws: the page's thread has nothing to do with it. */

/** A spectrogram; of one that is not whole, how many columns of each row are known. Rows run from low to high. */
export interface Painted {
  columns: number
  rows: number
  /** One byte a point. */
  points: Uint8Array
  fronts?: Uint16Array
}

export interface SpectrogramCanvas {
  /** What is painted on from now on, in these colours: 256 of four bytes. */
  take: (canvas: OffscreenCanvas, colours: Uint32Array) => void
  recolour: (colours: Uint32Array) => void
  /** Paints over what stood there. */
  paint: (what: Painted) => void
}

export function makeSpectrogramCanvas(): SpectrogramCanvas {
  let context: OffscreenCanvasRenderingContext2D | null = null
  let colours: Uint32Array = new Uint32Array(256)
  let image: ImageData | undefined
  /** The points as they stand, so that they can be painted in other colours, or on another canvas. */
  let shown: { columns: number; rows: number; points: Uint8Array } | undefined

  function put(known: (row: number) => number) {
    if (!context || !shown) return
    const { columns, rows, points } = shown
    const { canvas } = context
    if (!image || canvas.width !== columns || canvas.height !== rows) {
      canvas.width = columns
      canvas.height = rows
      image = context.createImageData(columns, rows)
      known = () => columns
    }
    const pixels = new Uint32Array(image.data.buffer)
    let last = 0
    for (let row = 0; row < rows; row++) {
      const from = row * columns
      const to = (rows - 1 - row) * columns
      const upTo = known(row)
      for (let column = 0; column < upTo; column++) pixels[to + column] = colours[points[from + column]]
      last = Math.max(last, upTo)
    }
    if (last > 0) context.putImageData(image, 0, 0, 0, 0, last, rows)
  }
  const all = () => put(() => shown?.columns ?? 0)
  return {
    take(canvas, now) {
      colours = now
      context = canvas.getContext('2d')
      image = undefined
      all()
    },
    recolour(now) {
      colours = now
      all()
    },
    paint({ columns, rows, points, fronts }) {
      if (shown?.columns !== columns || shown.rows !== rows) {
        const before = shown
        shown = { columns, rows, points: new Uint8Array(columns * rows) }
        if (before) stretch(before, shown)
      }
      const known = (row: number) => (fronts ? fronts[row] : columns)
      for (let row = 0; row < rows; row++) shown.points.set(points.subarray(row * columns, row * columns + known(row)), row * columns)
      put(known)
    },
  }
}

type Points = { columns: number; rows: number; points: Uint8Array }
/** What stood there stays until it is painted over, stretched. */
function stretch(from: Points, to: Points) {
  for (let row = 0; row < to.rows; row++) {
    const own = Math.floor((row / to.rows) * from.rows) * from.columns
    for (let column = 0; column < to.columns; column++) to.points[row * to.columns + column] = from.points[own + Math.floor((column / to.columns) * from.columns)]
  }
}
