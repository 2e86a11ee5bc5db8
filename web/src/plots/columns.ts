import type uPlot from 'uplot'

import type { PlotSegment } from '../api/view'
import { fromSi } from '../ui/units'
import type { Hatch } from './Plot'

/** Lowest and highest one after the other: the line fills what lies between. */
export function columnsOf(segments: readonly PlotSegment[], unit: string): uPlot.AlignedData {
  const x: number[] = []
  const y: (number | null)[] = []
  const shown = (v: number) => (Number.isFinite(v) ? fromSi(v, unit) : null)
  for (const { start, step, low, high } of segments) {
    if (x.length) {
      x.push(start) // so that no line bridges what is missing
      y.push(null)
    }
    for (let i = 0; i < low.length; i++) {
      const time = start + (i + 0.5) * step
      x.push(time, time)
      y.push(shown(low[i]!), shown(high[i]!))
    }
  }
  return [x, y]
}

/** Where a curve says nothing: between segments, and where columns clipped. */
export function hatchesOf(segments: readonly PlotSegment[]): Hatch[] {
  const found: Hatch[] = []
  segments.forEach(({ start, step, low, high }, n) => {
    const before = segments[n - 1]
    if (before)
      found.push({
        from: before.start + before.step * before.low.length,
        to: start,
        why: 'missing',
      })
    let from: number | null = null
    for (let i = 0; i <= low.length; i++) {
      const clipped = Math.abs(low[i]!) === Infinity || Math.abs(high[i]!) === Infinity
      if (clipped && from === null) from = start + i * step
      if (!clipped && from !== null) {
        found.push({ from, to: start + i * step, why: 'clipped' })
        from = null
      }
    }
  })
  return found
}
