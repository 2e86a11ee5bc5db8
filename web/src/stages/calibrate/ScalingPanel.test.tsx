import { QueryClientProvider } from '@tanstack/react-query'
import { act } from 'react'
import { beforeEach, expect, it, vi } from 'vitest'

import type { Channel } from '../../api/client'
import { changeScaling } from '../../api/actions'
import { queryClient, sessionQuery, type Right } from '../../api/queries'
import { render, type } from '../../ui/testing'
import { channel, quarter, UNITS } from '../../ui/testing-data'
import { learnUnits } from '../../ui/units'
import { shuntError } from './figures'
import { ScalingPanel } from './ScalingPanel'

vi.mock('../../api/actions', () => ({
  changeScaling: vi.fn(async () => {}),
  changeChannel: vi.fn(),
  shuntCheck: vi.fn(),
  undo: vi.fn(),
  zero: vi.fn(),
}))

beforeEach(() => {
  learnUnits(UNITS)
  vi.mocked(changeScaling).mockClear()
  queryClient.clear()
})

async function panel(of: Channel, may: Right[]) {
  const person = { username: 'x', name: 'X', role: 'engineer', may }
  queryClient.setQueryData(sessionQuery.queryKey, person)
  return render(
    <QueryClientProvider client={queryClient}>
      <ScalingPanel channel={of} setupId={1} />
    </QueryClientProvider>,
  )
}
const field = (box: HTMLElement, label: string) =>
  [...box.querySelectorAll('label')]
    .find((l) => l.textContent === label)!
    .parentElement!.querySelector('input')!

async function choose(box: HTMLElement, kind: string) {
  const select = box.querySelector('select')!
  select.value = kind
  await act(async () => select.dispatchEvent(new Event('change', { bubbles: true })))
}

it('shows capacity in the display unit and saves it in SI', async () => {
  const box = await panel(channel(), ['change scaling'])
  expect(field(box, 'Capacity').value).toBe('25.000')
  await type(field(box, 'Capacity'), '20', 'Enter')
  expect(changeScaling).toHaveBeenCalledWith(1, {
    scaling: { kind: 'rated_output', rated_output: 2e-3, capacity: 20_000 },
  })
})

it('saves a gauge factor as it is', async () => {
  const box = await panel(quarter(), ['change scaling'])
  await type(field(box, 'Gauge factor'), '2.1', 'Enter')
  expect(changeScaling).toHaveBeenCalledWith(3, {
    scaling: { kind: 'gauge', gauge_factor: 2.1, poisson_ratio: 0.3, with_leads: true },
  })
})

it('goes over to two points on the line in force', async () => {
  const box = await panel(channel(), ['change scaling'])
  await choose(box, 'two_points')
  expect(changeScaling).toHaveBeenCalledWith(1, {
    scaling: { kind: 'two_points', signal_1: 0, value_1: 0, signal_2: 1e-3, value_2: 12_500 },
  })
})

const points = [
  { signal: 0, value: 0 },
  { signal: 1e-3, value: 12_500 },
]

it('goes over to a table on the line in force, and takes a pasted one', async () => {
  const box = await panel(channel(), ['change scaling'])
  await choose(box, 'table')
  expect(changeScaling).toHaveBeenCalledWith(1, { scaling: { kind: 'table', points } })
  const table = await panel(channel({ scaling: { kind: 'table', points } }), ['change scaling'])
  const paste = new Event('paste', { bubbles: true, cancelable: true })
  Object.assign(paste, { clipboardData: { getData: () => '2,0\t25,1\n0\t0\n1,0\t12,4' } })
  await act(async () => table.querySelector('input')!.dispatchEvent(paste))
  const saved = vi.mocked(changeScaling).mock.lastCall![1].scaling as { points: typeof points }
  expect(saved.points.map((p) => [p.signal, Math.round(p.value)])).toEqual([
    [0, 0],
    [1e-3, 12_400],
    [2e-3, 25_100],
  ])
})

it('shows coefficients in the units that are read, and saves them in SI', async () => {
  const scaling = {
    kind: 'polynomial' as const,
    coefficients: [100, 12.5e6, 1e9],
    lowest: -1e-3,
    highest: 2e-3,
  }
  const box = await panel(channel({ scaling }), ['change scaling'])
  expect(field(box, 'Coefficient 0').value).toBe('0.100000')
  expect(field(box, 'Coefficient 1').value).toBe('12.500000')
  expect(field(box, 'Coefficient 2').value).toBe('1.000000')
  await type(field(box, 'Coefficient 2'), '2', 'Enter')
  expect(changeScaling).toHaveBeenCalledWith(1, {
    scaling: { ...scaling, coefficients: [100, 12.5e6, expect.closeTo(2e9)] },
  })
})

it('lets nobody change scaling who may not', async () => {
  const box = await panel(channel(), [])
  expect(field(box, 'Capacity').disabled).toBe(true)
  expect(box.textContent).toContain('Only an engineer changes scaling.')
})

it('gives the shunt error in per cent, or none', () => {
  const check = { deviation: -0.002175, passed: true, verdict: '', by: '', corrects: true }
  expect(shuntError(channel({ shunt_check: check }))).toBeCloseTo(-0.2175)
  expect(shuntError(channel({ shunt_check: null }))).toBeNull()
})
