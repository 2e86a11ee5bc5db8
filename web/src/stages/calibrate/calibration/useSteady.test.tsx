import { act } from 'react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import { render } from '../../../ui/testing'
import { STEADY_S, useSteady } from './useSteady'

let value = 0
const listeners = new Set<() => void>()
vi.mock('../../../live/LiveProvider', async () => {
  const { useSyncExternalStore } = await import('react')
  let shown = { value: 0, clipped: false }
  return {
    useReading: () =>
      useSyncExternalStore(
        (f) => {
          listeners.add(f)
          return () => listeners.delete(f)
        },
        () =>
          Object.is(shown.value, value) ? shown : (shown = { value, clipped: Number.isNaN(value) }),
      ),
  }
})

beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

function Shown() {
  return <>{useSteady('key', 1).toFixed(1)}</>
}

/** The next reading, a tenth of a second later. */
async function read(next: number) {
  vi.advanceTimersByTime(100)
  value = next
  await act(async () => listeners.forEach((f) => f()))
}

it('grows while a reading stays within its range, and begins anew when it leaves it', async () => {
  const box = await render(<Shown />)
  for (let i = 0; i < 10; i++) await read(5 + (i % 2) * 0.5)
  expect(Number(box.textContent)).toBeGreaterThan(0.7)
  expect(Number(box.textContent)).toBeLessThan(STEADY_S)
  await read(9)
  expect(box.textContent).toBe('0.0')
  for (let i = 0; i < 30; i++) await read(9 + (i % 2) * 0.5)
  expect(box.textContent).toBe(STEADY_S.toFixed(1))
})

it('is not steady while nothing can be read', async () => {
  const box = await render(<Shown />)
  for (let i = 0; i < 10; i++) await read(5 + (i % 2) * 0.5)
  await read(NaN)
  expect(box.textContent).toBe('0.0')
})
