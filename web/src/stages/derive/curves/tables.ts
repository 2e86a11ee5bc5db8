/** Columns of runs laid over each other, and what they read at an instant. */

import uPlot from 'uplot'

import type { PlotSegment } from '../../../api/view'
import { fromSi } from '../../../ui/units'

/** Lowest and highest of each column as two points in time: tables are joined by their times.
 *
 * zero : seconds of the run that are 0 on the page; scale : of what goes across, by second
 */
export function tableOf(
  segments: readonly PlotSegment[],
  unit: string,
  zero: number,
  scale = 1,
): uPlot.AlignedData {
  const x: number[] = []
  const y: (number | null)[] = []
  const shown = (v: number) => (Number.isFinite(v) ? fromSi(v, unit) : null)
  for (const { start, step, low, high } of segments) {
    if (x.length) {
      x.push((start - zero) * scale) // so that no line bridges what is missing
      y.push(null)
    }
    for (let i = 0; i < low.length; i++) {
      x.push((start + (i + 0.25) * step - zero) * scale, (start + (i + 0.75) * step - zero) * scale)
      y.push(shown(low[i]!), shown(high[i]!))
    }
  }
  return [x, y]
}

/** Middles of columns, in SI, by the seconds of the run at which they lie. */
export function middles(segments: readonly PlotSegment[]): [number[], number[]] {
  const t: number[] = []
  const v: number[] = []
  for (const { start, step, low, high } of segments)
    for (let i = 0; i < low.length; i++) {
      t.push(start + (i + 0.5) * step)
      v.push((low[i]! + high[i]!) / 2)
    }
  return [t, v]
}

/** On the line between the middles of columns; null beyond them, and beside what has no value. */
export function valueAt(segments: readonly PlotSegment[], seconds: number): number | null {
  for (const { start, step, low, high } of segments) {
    const place = (seconds - start) / step - 0.5
    if (place < -0.5 || place > low.length - 0.5) continue
    const i = Math.max(0, Math.min(low.length - 1, Math.floor(place)))
    const j = Math.min(low.length - 1, i + 1)
    const [a, b] = [(low[i]! + high[i]!) / 2, (low[j]! + high[j]!) / 2]
    const value = a + Math.max(0, Math.min(1, place - i)) * (b - a)
    return Number.isFinite(value) ? value : null
  }
  return null
}

/** One channel of a run over another, both at the middles of the first one's columns. */
export function pairTable(
  up: readonly PlotSegment[],
  across: readonly PlotSegment[],
  [upUnit, acrossUnit]: readonly [string, string],
): uPlot.AlignedData {
  const [t, v] = middles(up)
  const x: (number | null)[] = []
  const y: (number | null)[] = []
  t.forEach((at, i) => {
    const other = valueAt(across, at)
    if (other === null || !Number.isFinite(v[i]!)) return
    x.push(fromSi(other, acrossUnit))
    y.push(fromSi(v[i]!, upUnit))
  })
  return [x, y] as uPlot.AlignedData
}

/** Tables of several runs in one, each with a column of its own, in the order of their points. */
export function beside(tables: readonly uPlot.AlignedData[]): uPlot.AlignedData {
  const x = tables.flatMap((table): (number | null)[] => [...table[0], null])
  const columns = tables.map((_, i) =>
    tables.flatMap((table, j): (number | null)[] =>
      j === i
        ? [...(table[1] as (number | null)[]), null]
        : [...Array.from(table[0], () => null), null],
    ),
  )
  return [x, ...columns] as unknown as uPlot.AlignedData
}

export const joined = (tables: uPlot.AlignedData[]): uPlot.AlignedData =>
  tables.length ? uPlot.join(tables) : [[], []]
