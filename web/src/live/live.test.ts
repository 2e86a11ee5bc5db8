import { describe, expect, it } from 'vitest'

import { decodeFrame } from './decode'
import { Trace } from './trace'

function frameBytes(): ArrayBuffer {
  const numbers = [7, 1.5, 0.25, 1, -1, 2, 0.5]
  const buffer = new ArrayBuffer(24 + 4 * numbers.length)
  const view = new DataView(buffer)
  view.setUint16(0, 1, true)
  view.setUint16(2, 1, true)
  view.setFloat64(8, 12.5, true)
  view.setFloat64(16, 3.5, true)
  new Float32Array(buffer, 24).set(numbers)
  return buffer
}

it('decodes a frame', () => {
  const frame = decodeFrame(frameBytes())
  expect(frame.runS).toBe(3.5)
  expect(frame.endS).toBe(12.5)
  expect(frame.channels[0]).toMatchObject({ id: 7, reading: 1.5, raw: 0.25, clipped: true })
  expect([...frame.channels[0]!.bins]).toEqual([-1, 2, 0.5])
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
})
