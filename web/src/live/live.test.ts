import { describe, expect, it } from 'vitest'

import { decodeFrame } from './decode'
import { frameBytes } from './frames.testing'
import { Trace } from './trace'

it('decodes a frame', () => {
  const frame = decodeFrame(
    frameBytes({ layout: 9, endS: 12.5, runS: 3.5, reading: 2, clipped: 0.25 }),
  )
  expect(frame).toMatchObject({ layout: 9, runS: 3.5, endS: 12.5, binCount: 1 })
  expect(frame.channels[0]).toMatchObject({ place: 0, reading: 2, raw: 0.5, lowest: 0, highest: 4 })
  expect(frame.channels[0]).toMatchObject({ clipped: 0.25, mean: 2 })
  expect([...frame.channels[0]!.bins]).toEqual([1, 3, 2])
})

describe('Trace', () => {
  const filled = (growing: boolean, count: number) => {
    const trace = new Trace(8, growing)
    for (let i = 0; i < count; i++) trace.push(i, -i, i, i)
    return trace
  }
  it('lets the oldest go when it rolls', () => {
    expect(filled(false, 20).times).toEqual([12, 13, 14, 15, 16, 17, 18, 19])
  })
  it('takes what happened before it was there', () => {
    const trace = new Trace(8, true)
    trace.push(3, 0, 1, 1)
    trace.prepend([1, 2, 3], [-1, -2, -3], [1, 2, 3])
    expect(trace.times).toEqual([1, 2, 3])
    expect(trace.low).toEqual([-1, -2, 0])
  })
  it('keeps extremes of the whole run when it grows', () => {
    const trace = filled(true, 1000)
    expect(trace.times.length).toBeLessThanOrEqual(8)
    expect(Math.max(...trace.high)).toBe(999)
    expect(Math.min(...trace.low)).toBe(-999)
    expect(trace.times.at(-1)).toBe(999)
  })
  it('marks what clipped and leaves it out of extremes', () => {
    const trace = new Trace(4, true)
    for (let i = 0; i < 6; i++) trace.push(i, i === 1 ? NaN : i, i === 1 ? NaN : i, i, i === 1)
    expect(Math.min(...trace.low)).toBe(0)
    expect(trace.clipped.filter(Boolean)).toHaveLength(1)
    expect(trace.times).toHaveLength(trace.clipped.length)
    trace.prepend([-2, -1], [-5, -Infinity], [Infinity, 3])
    expect(trace.clipped.slice(0, 2)).toEqual([true, true])
    expect(trace.low[0]).toBe(-5)
    expect(trace.high[0]).toBeNaN()
  })
})
