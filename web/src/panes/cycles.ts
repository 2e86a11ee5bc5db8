/** Cycles in what a screen has seen of a channel: where they begin, and how two channels pair. */

import type { Trace } from '../live/trace'

const GATE = 0.25 // of the range: what turns back within it begins no cycle

/** Places at which a signal rises through its middle, having been well below it before. */
export function cycleStarts(values: readonly number[]): number[] {
  const known = values.filter(Number.isFinite)
  if (known.length < 3) return []
  let [low, high] = [Infinity, -Infinity]
  for (const v of known) [low, high] = [Math.min(low, v), Math.max(high, v)]
  const middle = (low + high) / 2
  const below = middle - GATE * (high - low)
  if (low === high) return []
  const found: number[] = []
  let ready = false
  values.forEach((v, i) => {
    if (v <= below) ready = true
    else if (ready && v >= middle) {
      found.push(i)
      ready = false
    }
  })
  return found
}

/** y at the times of x: between its own values it lies on the line, beyond them it is not known. */
export function paired(x: Trace, y: Trace): [x: number[], y: number[]] {
  if (
    x.times.length === y.times.length &&
    x.times[0] === y.times[0] &&
    x.times.at(-1) === y.times.at(-1)
  )
    return [[...x.last], [...y.last]] // of one device
  const out: number[] = []
  let j = 0
  for (const t of x.times) {
    while (j + 1 < y.times.length && y.times[j + 1]! <= t) j++
    const [t0, t1] = [y.times[j]!, y.times[j + 1]!]
    if (t0 > t || (t1 === undefined && t0 < t)) out.push(NaN)
    else if (t1 === undefined || t0 === t) out.push(y.last[j]!)
    else out.push(y.last[j]! + ((t - t0) / (t1 - t0)) * (y.last[j + 1]! - y.last[j]!))
  }
  return [[...x.last], out]
}
