import type uPlot from 'uplot'

import type { KeptRows } from '../../api/kept'
import { fromSi } from '../../ui/units'

/** Cycles, and the lowest and the highest of each, or of some together.
 *
 * every : of how many cycles one is kept
 */
export function cyclesOf(kept: KeptRows, every: number, unit: string): uPlot.AlignedData {
  const { rows, low, high } = kept
  const shown = (value: number) => (Number.isFinite(value) ? fromSi(value, unit) : null)
  const single = low.length === rows // else each column holds both ends of its cycles
  const count = single ? Math.floor(rows / 2) : low.length
  const each = single ? every : ((rows / 2) * every) / Math.max(1, count)
  const x = Array.from({ length: count }, (_, i) => (i + 1) * each)
  if (!single) return [x, [...low].map(shown), [...high].map(shown)]
  const ends = x.map((_, i) => [low[2 * i]!, low[2 * i + 1]!] as const)
  return [
    x,
    ends.map((pair) => shown(Math.min(...pair))),
    ends.map((pair) => shown(Math.max(...pair))),
  ]
}
