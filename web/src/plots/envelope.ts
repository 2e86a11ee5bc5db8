import type uPlot from 'uplot'

const THICKNESS = 1.5 // px, so that a quiet signal is seen as a line

/** A pixel column's lowest and highest, in canvas pixels from the top. */
interface Column {
  x: number
  top: number
  bottom: number
}

/**
 * One filled shape through lowest and highest of each pixel column, for series in which the
 * lowest and highest of a bin follow each other. Filling it costs a small part of stroking the
 * line that goes to and fro between them, which counts with many strips ten times a second.
 */
export const envelopePaths: uPlot.Series.PathBuilder = (plot, series) => {
  const [x, y] = [plot.data[0], plot.data[series]!]
  const fill = new Path2D()
  let run: Column[] = []
  for (let i = 0; i < x.length; i++) {
    if (y[i] == null) {
      trace(fill, run)
      run = []
      continue
    }
    const at = Math.round(plot.valToPos(x[i]!, 'x', true))
    const height = plot.valToPos(y[i]!, 'y', true)
    const last = run.at(-1)
    if (last?.x === at) {
      last.top = Math.min(last.top, height)
      last.bottom = Math.max(last.bottom, height)
    } else run.push(touching({ x: at, top: height, bottom: height }, last))
  }
  trace(fill, run)
  return { fill }
}

/** A column that reaches to the one before it: a steep step stays as thick as a level line. */
function touching(column: Column, before: Column | undefined): Column {
  if (!before) return column
  return {
    x: column.x,
    top: Math.min(column.top, before.bottom),
    bottom: Math.max(column.bottom, before.top),
  }
}

/** There along the highest, back along the lowest. */
function trace(path: Path2D, columns: readonly Column[]): void {
  const half = (THICKNESS * devicePixelRatio) / 2
  columns.forEach(({ x, top }, i) =>
    i ? path.lineTo(x, top - half) : path.moveTo(x - half, top - half),
  )
  for (const { x, bottom } of [...columns].reverse()) path.lineTo(x + half, bottom + half)
  path.closePath()
}
