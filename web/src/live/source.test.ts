import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { LiveSource } from './source'

/** A socket that the test opens, feeds and cuts by hand. */
class FakeSocket {
  static made: FakeSocket[] = []
  binaryType = ''
  closed = false
  onmessage: ((event: { data: unknown }) => void) | null = null
  onclose: ((event: { code: number }) => void) | null = null
  constructor(readonly url: string) {
    FakeSocket.made.push(this)
  }
  close() {
    this.closed = true
  }
}

function frame(values: { endS: number; runS?: number; reading?: number; clipped?: number }) {
  const { endS, runS = -1, reading = 1, clipped = 0 } = values
  const buffer = new ArrayBuffer(24 + 4 * 7)
  const view = new DataView(buffer)
  view.setUint16(0, 1, true)
  view.setUint16(2, 1, true)
  view.setFloat64(8, endS, true)
  view.setFloat64(16, runS, true)
  new Float32Array(buffer, 24).set([7, reading, 0.5, clipped, reading - 1, reading + 1, reading])
  return buffer
}

const newest = () => FakeSocket.made.at(-1)!
const receive = (data: unknown) => newest().onmessage!({ data })

let source: LiveSource
let leave: () => void
let heard = 0
const news = vi.fn()

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('WebSocket', FakeSocket)
  FakeSocket.made = []
  heard = 0
  news.mockClear()
  source = new LiveSource('ws://bench/live/1', news)
  leave = source.subscribe(() => heard++)
})
afterEach(() => {
  leave()
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

describe('the socket', () => {
  it('opens with the first listener and closes with the last', () => {
    const second = source.subscribe(() => {})
    expect(FakeSocket.made).toHaveLength(1)
    second()
    expect(newest().closed).toBe(false)
    leave()
    expect(newest().closed).toBe(true)
  })

  it('opens again after it was cut', () => {
    newest().onclose!({ code: 1006 })
    expect(source.connection).toBe('connecting')
    vi.advanceTimersByTime(1100)
    expect(FakeSocket.made).toHaveLength(2)
  })

  it('does not try again where it is refused', () => {
    newest().onclose!({ code: 4401 })
    vi.advanceTimersByTime(10_000)
    expect(source.connection).toBe('refused')
    expect(FakeSocket.made).toHaveLength(1)
  })
})

describe('readings', () => {
  it('keep lowest and highest until they are reset', () => {
    for (const [i, reading] of [3, -2, 5].entries()) receive(frame({ endS: i / 10, reading }))
    expect(source.reading(7)).toMatchObject({ value: 5, raw: 0.5, lowest: -2, highest: 5 })
    source.resetPeaks(7)
    expect(source.reading(7)).toMatchObject({ lowest: 5, highest: 5 })
  })

  it('are none when nothing arrives, so that an old one never looks live', () => {
    receive(frame({ endS: 0 }))
    expect(source.reading(7)).toBeDefined()
    vi.advanceTimersByTime(2000)
    expect(source.connection).toBe('stale')
    expect(source.reading(7)).toBeUndefined()
    receive(frame({ endS: 3 }))
    expect(source.reading(7)).toBeDefined()
  })

  it('say when they are clipped', () => {
    receive(frame({ endS: 0, clipped: 1 }))
    expect(source.reading(7)!.clipped).toBe(true)
  })

  it('tell each listener once a frame', () => {
    receive(frame({ endS: 0 }))
    receive(frame({ endS: 0.1 }))
    expect(heard).toBe(2)
  })
})

describe('a run', () => {
  it('is traced from its beginning and stays in view after its end', () => {
    receive(frame({ endS: 100, runS: 0.1 }))
    receive(frame({ endS: 100.1, runS: 0.2 }))
    receive(frame({ endS: 100.2 }))
    expect(source.wholeRun.get(7)!.times.map((t) => +t.toFixed(3))).toEqual([0.1, 0.2])
    receive(frame({ endS: 200, runS: 0.1 }))
    expect(source.wholeRun.get(7)!.times).toHaveLength(1)
  })

  it('that began before this screen looked tells once how much is missing', () => {
    receive(frame({ endS: 100, runS: 12.1 }))
    expect(source.takeMissed()).toBeCloseTo(12)
    expect(source.takeMissed()).toBe(0)
    source.prepend(7, [1, 2, 99], [0, 0, 0], [1, 1, 1])
    expect(source.wholeRun.get(7)!.times.map(Math.round)).toEqual([1, 2, 12])
  })
})

it('passes news on and keeps the state', () => {
  receive(JSON.stringify({ kind: 'setup', setup: 3 }))
  expect(news).toHaveBeenCalledWith({ kind: 'setup', setup: 3 })
  receive(JSON.stringify({ kind: 'state', state: { phase: 'recording', run: 5 } }))
  expect(source.state).toMatchObject({ phase: 'recording', run: 5 })
  expect(news).toHaveBeenCalledTimes(1)
})
