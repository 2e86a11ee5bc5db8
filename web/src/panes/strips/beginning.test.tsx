import { act } from 'react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import * as view from '../../api/view'
import type { Channel } from '../../api/client'
import * as provider from '../../live/LiveProvider'
import type { BenchState } from '../../live/source'
import { LiveSource } from '../../live/source'
import { frameBytes, stateText } from '../../live/frames.testing'
import { render } from '../../ui/testing'
import { useBeginning } from './beginning'

vi.mock('../../api/view', { spy: true })
vi.mock('../../live/LiveProvider', { spy: true })

let socket: { onmessage: (event: { data: unknown }) => void }
let live: LiveSource
const receive = (data: unknown) => act(() => socket.onmessage({ data }))
const channels = [
  { key: 'force', recorded: true },
  { key: 'off', recorded: false },
] as Channel[]

function Screen() {
  useBeginning(channels)
  return null
}

/** Samples from a run's beginning on, evenly. */
const stored = (seconds: number): view.PlotSegment[] => {
  const count = Math.round(seconds / 0.1)
  return count ? [{ start: 0, step: 0.1, low: new Float32Array(count), high: new Float32Array(count) }] : [] // prettier-ignore
}

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal(
    'WebSocket',
    class {
      constructor() {
        socket = this as never
      }
      close() {}
    },
  )
  live = new LiveSource('ws://bench/live/1', vi.fn())
  vi.mocked(provider.useLive).mockReturnValue(live)
  vi.mocked(provider.useBenchState).mockImplementation(() => live.state as BenchState)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

it('what came before the first frame is fetched once it is stored, of what is recorded', async () => {
  const fetched = vi.mocked(view.fetchView)
  fetched.mockReset().mockResolvedValueOnce([]).mockResolvedValueOnce(stored(0.2))
  fetched.mockResolvedValue(stored(0.4))
  await render(<Screen />)
  receive(stateText({ 1: ['force'] }, { phase: 'recording', run: 5 })) // before any frame
  receive(frameBytes({ endS: 100, runS: 0.5 }))
  await act(() => vi.advanceTimersByTimeAsync(3000))
  expect(fetched.mock.calls.map(([run, key, [from, to]]) => [run, key, from, +to.toFixed(3)])).toEqual(
    Array(3).fill([5, 'force', 0, 0.4]),
  ) // prettier-ignore
  const times = live.wholeRun.get('force')!.times.map((t) => +t.toFixed(2))
  expect(times).toEqual([0.05, 0.15, 0.25, 0.35, 0.5])
})

it('what is never stored is given up, and what there is shows', async () => {
  const fetched = vi.mocked(view.fetchView)
  fetched.mockReset().mockResolvedValue(stored(0.2))
  await render(<Screen />)
  receive(stateText({ 1: ['force'] }, { phase: 'recording', run: 5 }))
  receive(frameBytes({ endS: 100, runS: 1.1 }))
  await act(() => vi.advanceTimersByTimeAsync(10_000))
  expect(fetched).toHaveBeenCalledTimes(6)
  expect(live.wholeRun.get('force')!.times).toHaveLength(3)
})

it('a beginning that comes when the next run is recorded is not put before that one', async () => {
  const fetched = vi.mocked(view.fetchView)
  fetched.mockReset().mockResolvedValueOnce([]).mockResolvedValue(stored(0.4))
  await render(<Screen />)
  receive(stateText({ 1: ['force'] }, { phase: 'recording', run: 5 }))
  receive(frameBytes({ endS: 100, runS: 0.3 }))
  receive(stateText({ 1: ['force'] }, { phase: 'recording', run: 6 }))
  receive(frameBytes({ endS: 200, runS: 0.1 }))
  expect(fetched.mock.calls[0]![3]).toBeGreaterThanOrEqual(16) // fewer pixels are refused
  await act(() => vi.advanceTimersByTimeAsync(3000))
  expect(live.wholeRun.get('force')!.times).toHaveLength(1)
})
