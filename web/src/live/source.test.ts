import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { frameBytes, stateText } from './frames.testing'
import { isBusy, LiveSource } from './source'

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
  receive(stateText({ 1: ['force'] }))
  heard = 0
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
  it('bring lowest and highest as the recorder keeps them, the same on every screen', () => {
    receive(frameBytes({ endS: 0, reading: 3, lowest: -2, highest: 5 }))
    expect(source.reading('force')).toMatchObject({ value: 3, raw: 0.5, lowest: -2, highest: 5 })
    receive(frameBytes({ endS: 0.1, reading: 3, lowest: 3, highest: 3 }))
    expect(source.reading('force')).toMatchObject({ lowest: 3, highest: 3 })
  })

  it('wait for the layout that says whose they are', () => {
    receive(frameBytes({ layout: 2, endS: 0 }))
    expect(heard).toBe(0)
    receive(stateText({ 1: ['force'], 2: ['gauge'] }))
    receive(frameBytes({ layout: 2, endS: 0.1, reading: 8 }))
    expect(source.reading('gauge')).toMatchObject({ value: 8 })
    expect(source.reading('force')).toBeUndefined()
  })

  it('are none when nothing arrives, so that an old one never looks live', () => {
    receive(frameBytes({ endS: 0 }))
    expect(source.reading('force')).toBeDefined()
    vi.advanceTimersByTime(2000)
    expect(source.connection).toBe('stale')
    expect(source.reading('force')).toBeUndefined()
    receive(frameBytes({ endS: 3 }))
    expect(source.reading('force')).toBeDefined()
  })

  it('of a device that is away are none though another goes on', () => {
    receive(stateText({ 1: ['force'], 2: ['gauge'] }))
    receive(frameBytes({ layout: 1, endS: 0 }))
    for (let i = 0; i < 20; i++) {
      receive(frameBytes({ layout: 2, endS: i / 10 }))
      vi.advanceTimersByTime(100)
    }
    expect(source.connection).toBe('live')
    expect(source.reading('gauge')).toBeDefined()
    expect(source.reading('force')).toBeUndefined()
  })

  it('tell only who asked for their channels', () => {
    receive(stateText({ 1: ['force'], 2: ['gauge'] }))
    let told = 0
    const stop = source.subscribe(() => told++, 'gauge')
    receive(frameBytes({ layout: 1, endS: 0 }))
    vi.advanceTimersByTime(100)
    expect(told).toBe(0)
    receive(frameBytes({ layout: 2, endS: 0 }))
    expect(told).toBe(1)
    stop()
  })

  it('say when they are clipped', () => {
    receive(frameBytes({ endS: 0, clipped: 1 }))
    expect(source.reading('force')!.clipped).toBe(true)
  })

  it('tell each listener once a frame', () => {
    receive(frameBytes({ endS: 0 }))
    vi.advanceTimersByTime(100)
    receive(frameBytes({ endS: 0.1 }))
    expect(heard).toBe(2)
  })

  it('of devices that send at nearly the same time are told together, the first at once', () => {
    receive(stateText({ 1: ['force'], 2: ['gauge'], 3: ['travel'] }))
    const told: string[] = []
    for (const key of ['force', 'gauge', 'travel']) source.subscribe(() => told.push(key), key)
    receive(frameBytes({ layout: 1, endS: 0 }))
    expect(told).toEqual(['force'])
    receive(frameBytes({ layout: 2, endS: 0 }))
    receive(frameBytes({ layout: 3, endS: 0 }))
    expect(told).toEqual(['force'])
    vi.advanceTimersByTime(50)
    expect(told).toEqual(['force', 'gauge', 'travel'])
    vi.advanceTimersByTime(1000)
    expect(told).toHaveLength(3)
  })
})

describe('a run', () => {
  it('is traced from its beginning and stays in view after its end', () => {
    receive(frameBytes({ endS: 100, runS: 0.1 }))
    receive(frameBytes({ endS: 100.1, runS: 0.2 }))
    receive(frameBytes({ endS: 100.2 }))
    expect(source.wholeRun.get('force')!.times.map((t) => +t.toFixed(3))).toEqual([0.1, 0.2])
    receive(frameBytes({ endS: 200, runS: 0.1 }))
    expect(source.wholeRun.get('force')!.times).toHaveLength(1)
  })

  it('that began before this screen looked tells once how much is missing', () => {
    receive(frameBytes({ endS: 100, runS: 12.1 }))
    expect(source.takeMissed()).toBeCloseTo(12)
    expect(source.takeMissed()).toBe(0)
    source.prepend('force', [1, 2, 99], [0, 0, 0], [1, 1, 1])
    expect(source.wholeRun.get('force')!.times.map(Math.round)).toEqual([1, 2, 12])
  })
})

it('passes news on and keeps the state', () => {
  receive(JSON.stringify({ kind: 'setup', setup: 3 }))
  expect(news).toHaveBeenCalledWith({ kind: 'setup', setup: 3 })
  receive(stateText({}, { phase: 'recording', run: 5 }))
  expect(source.state).toMatchObject({ phase: 'recording', run: 5 })
  expect(news).toHaveBeenCalledTimes(1)
})

it('is busy from the moment a start is taken', () => {
  for (const [phase, busy] of [
    ['idle', false],
    ['arming', true],
    ['recording', true],
  ] as const) {
    receive(stateText({}, { phase }))
    expect(isBusy(source.state)).toBe(busy)
  }
})
