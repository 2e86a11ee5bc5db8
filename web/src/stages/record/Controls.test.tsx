import { QueryClientProvider } from '@tanstack/react-query'
import { beforeEach, expect, it, vi } from 'vitest'

import type { Bench, Setup } from '../../api/client'
import * as actions from '../../api/actions'
import { queryClient, sessionQuery, type Right } from '../../api/queries'
import type { BenchState } from '../../live/source'
import { pressed, render } from '../../ui/testing'
import { amplifier, setup } from '../../ui/testing-data'
import { Controls } from './Controls'

vi.mock('../../api/actions', { spy: true })

const idle = { phase: 'idle', motion: 'HOLD' } as BenchState
const gap = (code: string, text: string) => ({
  code,
  stage: 'record',
  text,
  hint: '',
  blocks: true,
})
const signIn = (...may: Right[]) =>
  queryClient.setQueryData(sessionQuery.queryKey, {
    username: 'x', name: 'X', role: 'technician', may,
  }) // prettier-ignore

async function offered(over: Partial<Setup>, bench: Partial<Bench>, state: BenchState = idle) {
  const of = { id: 7, name: 'Shed', devices: [amplifier], yoke_mine: true, ...bench } as Bench
  const context = { setup: setup(over), bench: of, chosen: null, choose: () => {} }
  const box = await render(
    <QueryClientProvider client={queryClient}>
      <Controls context={context} state={state} />
    </QueryClientProvider>,
  )
  const words = [...box.querySelectorAll('button')].map(
    (b) => `${b.firstChild!.textContent}${b.disabled ? ' (waits)' : ''}`,
  )
  return { box, words }
}

beforeEach(() => {
  signIn('drive the bench')
  for (const action of Object.values(actions))
    if (vi.isMockFunction(action)) action.mockReset().mockResolvedValue(undefined)
})

it('nothing starts before somebody has the yoke', async () => {
  const free = await offered({}, { yoke_mine: false, yoke_holder: '' })
  expect(free.words).toEqual(['Take the yoke', 'Emergency stop'])
  await pressed(free.box, 'Take the yoke')
  expect(actions.takeYoke).toHaveBeenCalledWith(7)
  const taken = await offered({}, { yoke_mine: false, yoke_holder: 'Technician' })
  expect(taken.words).toEqual(['Technician holds the yoke (waits)', 'Emergency stop'])
})

it('what is ready starts, under the name of its kind', async () => {
  expect((await offered({}, {})).words[0]).toBe('Start the pull')
  const free = await offered({ motion: { kind: 'none' } }, {})
  expect(free.words[0]).toBe('Start recording')
  await pressed(free.box, 'Start recording')
  expect(actions.startOrStop).toHaveBeenCalledWith(expect.objectContaining({ id: 1 }), false)
})

it('what is missing is said in the place of the start', async () => {
  const preflight = [gap('not_zeroed', 'SG1 is not zeroed')]
  const { box, words } = await offered({ preflight }, {})
  expect(words[0]).toBe('SG1 is not zeroed (waits)')
  expect(box.querySelector('li')!.textContent).toBe('SG1 is not zeroed')
})

it('an actuator that is away returns first, and a setup that is not on the bench goes there', async () => {
  const preflight = [gap('actuator_not_home', 'Away')]
  const away = await offered({ preflight, next_specimen: 'C2' }, {})
  expect(away.words).toEqual(['Return, then fit C2', 'Emergency stop'])
  await pressed(away.box, 'Return, then fit C2')
  expect(actions.returnForNext).toHaveBeenCalledOnce()
  const moving = { ...idle, motion: 'RETURN' }
  expect((await offered({ preflight }, {}, moving)).words[0]).toBe('The actuator returns (waits)')
  const other = await offered({ preflight: [gap('other_setup', 'Another setup')] }, {})
  expect(other.words).toEqual(['Put Tension on the bench', 'Emergency stop'])
})

it('while it records, nothing is started, even if something is missing', async () => {
  const preflight = [gap('actuator_not_home', 'Away')]
  for (const phase of ['arming', 'beginning', 'recording'] as const) {
    const { box, words } = await offered({ preflight }, {}, { ...idle, phase })
    const more = phase === 'recording' ? ['Pause', 'Marker'] : []
    expect(words).toEqual(['Stop recording', ...more, 'Emergency stop'])
    expect(box.querySelector('li')).toBeNull()
    await pressed(box, 'Stop recording')
    expect(actions.stopBench).toHaveBeenLastCalledWith(7)
  }
})

it('a reviewer only watches, and may stop everything', async () => {
  signIn()
  const { box, words } = await offered({}, {}, { ...idle, phase: 'recording' })
  expect(words).toEqual(['Reviewers only watch (waits)', 'Emergency stop'])
  await pressed(box, 'Emergency stop')
  expect(actions.emergencyStop).toHaveBeenLastCalledWith(7)
})

it('an emergency stop in force is released before anything is returned or started', async () => {
  signIn('drive the bench')
  const preflight = [
    gap('latched', 'An emergency stop is in force.'),
    gap('actuator_not_home', 'The actuator is not home.'),
  ]
  const latched = { by: 'Reviewer', at: '2026-11-29T10:00:00Z' }
  const { words } = await offered({ preflight }, {}, { ...idle, latched })
  expect(words).toEqual(['An emergency stop is in force. (waits)', 'Emergency stop'])
})

it('the emergency stop is there for whoever drives, with or without the yoke', async () => {
  const { box } = await offered({}, { yoke_mine: false, yoke_holder: 'Technician' })
  await pressed(box, 'Emergency stop')
  expect(actions.emergencyStop).toHaveBeenCalledWith(7)
})
