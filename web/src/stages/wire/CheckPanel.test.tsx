import { QueryClientProvider } from '@tanstack/react-query'
import { beforeEach, expect, it, vi } from 'vitest'

import type { Bench, Channel } from '../../api/client'
import { checkWiring } from '../../api/actions'
import { queryClient, sessionQuery, type Right } from '../../api/queries'
import { pressed, render } from '../../ui/testing'
import { amplifier, quarter, setup } from '../../ui/testing-data'
import { CheckPanel } from './CheckPanel'

vi.mock('../../api/actions', () => ({ checkWiring: vi.fn(async () => {}) }))

const bench = { id: 1, name: 'Shed', devices: [amplifier], yoke_mine: true } as unknown as Bench
const finding = (name: string, passed: boolean | null) => ({
  name,
  value: '350.1 Ω',
  due: '',
  passed,
  pins: [],
  arms: [],
})
const check = (over: Partial<NonNullable<Channel['check']>> = {}) => ({
  at: '2026-11-26T11:42:07Z',
  old: false,
  passed: false,
  title: 'Brown core is broken',
  short: 'Broken core',
  hint: 'Look at its solder joint.',
  causes: [],
  others: [],
  parted_by: '',
  findings: [finding('Grid', false), finding('Noise', true), finding('Sign', null)],
  ...over,
})

beforeEach(() => {
  const may: Right[] = ['zero and check channels', 'drive the bench']
  const person = { username: 'x', name: 'X', role: 'engineer', may }
  queryClient.setQueryData(sessionQuery.queryKey, person)
  vi.mocked(checkWiring).mockClear()
})

const panel = (found: Channel['check'], of: Bench = bench) =>
  render(
    <QueryClientProvider client={queryClient}>
      <CheckPanel setup={setup()} bench={of} channel={quarter({ check: found })} />
    </QueryClientProvider>,
  )

it('says one fault with what to do, as an alert', async () => {
  const box = await panel(check())
  const alert = box.querySelector('[role=alert]')!
  expect(alert.textContent).toBe('Brown core is brokenLook at its solder joint.')
  expect(
    box.querySelectorAll('[aria-label="Figures of the check"] > li:not([aria-hidden])').length,
  ).toBe(3)
})

it('names two that read alike, and the measurement that parts them', async () => {
  const others = [{ title: 'The grid is open', causes: [] }]
  const box = await panel(check({ others, parted_by: 'Measure across the grid.' }))
  expect(box.querySelector('[role=alert]')!.textContent).toBe(
    'Brown core is broken, or the grid is openThey read alike. Measure across the grid.',
  )
})

it('shows no verdict in red once the wiring was changed, nor where all is well', async () => {
  const old = await panel(check({ old: true }))
  expect(old.querySelector('[role=alert]')).toBeNull()
  expect(old.textContent).toContain('The wiring was changed since it was checked.')
  const well = await panel(check({ passed: true, title: 'All well' }))
  expect(well.querySelector('[role=alert]')).toBeNull()
  expect(well.textContent).toContain('Which way it reads is not tested by this')
})

it('checks the one, or all; without the yoke it says what it waits for', async () => {
  const box = await panel(null)
  await pressed(box, 'Check SG1')
  expect(checkWiring).toHaveBeenLastCalledWith(1, [3])
  await pressed(box, 'Check 2 inputs')
  expect(checkWiring).toHaveBeenLastCalledWith(1, [1, 3])
  const others = await panel(null, {
    ...bench,
    yoke_mine: false,
    yoke_holder: 'Technician',
  } as Bench)
  expect(others.textContent).toContain('Technician')
  expect(others.textContent).not.toContain('Check 2 inputs')
})
