import { expect, it } from 'vitest'

import { Trace } from '../live/trace'
import { cycleStarts, paired } from './cycles'
import { ranged } from './ends'
import { ticksOf } from './ruler/ticks'

it('a cycle begins where the signal rises through its middle, and nowhere within the gate', () => {
  const wave = Array.from({ length: 100 }, (_, i) => Math.sin((2 * Math.PI * (i - 2.5)) / 20))
  expect(cycleStarts(wave)).toEqual([3, 23, 43, 63, 83])
  const ripple = wave.map((v, i) => v + 0.2 * (i % 2 ? 1 : -1))
  expect(cycleStarts(ripple)).toHaveLength(5)
  expect(cycleStarts([1, 1, 1, NaN])).toEqual([])
})

it('of two devices the second is read at the times of the first', () => {
  const traceOf = (points: [number, number][]) => {
    const trace = new Trace(100, false)
    for (const [time, value] of points) trace.push(time, value, value, value)
    return trace
  }
  const x = traceOf([[0, 1], [1, 2], [2, 3], [4, 4]]) // prettier-ignore
  const y = traceOf([[0.5, 10], [1.5, 20], [2.5, 40]]) // prettier-ignore
  expect(paired(x, y)).toEqual([[1, 2, 3, 4], [NaN, 15, 30, NaN]]) // prettier-ignore
})

it('a ruler has whole steps that reach no further than its ends', () => {
  expect(ticksOf(-2.2, 2.2)).toEqual({ long: [-2, -1, 0, 1, 2], step: 1, decimals: 0 })
  expect(ticksOf(0, 0.5)).toMatchObject({ step: 0.1, decimals: 1 })
  expect(ticksOf(3, 3).long).toEqual([3])
  for (const span of [1e-9, 0.07, 33, 8e8]) {
    const { long } = ticksOf(-span, span)
    expect(long.length).toBeGreaterThan(3)
    expect(long.length).toBeLessThan(10)
  }
})

it('typed ends hold, one of them alone too, and never the wrong way round', () => {
  expect(ranged([null, 5], [-1, 1])).toEqual([-1, 5])
  expect(ranged([8, 5], [-1, 1])).toEqual([5, 8])
  expect(ranged([null, null], [2, 2])).toEqual([1.5, 2.5])
})
