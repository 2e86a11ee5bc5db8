import { QueryClientProvider } from '@tanstack/react-query'
import { beforeEach, expect, it, vi } from 'vitest'

import * as actions from '../../api/actions'
import type { Bench, Setup } from '../../api/client'
import { markersQuery, queryClient, sessionQuery } from '../../api/queries'
import type { BenchState, ProgrammeShown } from '../../live/source'
import { pressed, render } from '../../ui/testing'
import { amplifier, channel, setup } from '../../ui/testing-data'
import { Controls } from './Controls'
import { Legs } from './Legs'
import { Markers } from './Markers'
import { PaperPlot } from './PaperPlot'
import { ProgrammePanel } from './ProgrammePanel'

vi.mock('../../api/actions', { spy: true })

const under: ProgrammeShown = {
  leg: 2,
  legs: 3,
  words: '10 cycles between 200 and 1800 N',
  round: 2,
  held: '',
  waits: false,
  seconds: 2,
  cycles: 4,
  commanded: null,
}
const recording = (over: Partial<BenchState> = {}) =>
  ({
    phase: 'recording',
    run: 5,
    run_name: 'FK run 1',
    paused: '',
    programme: under,
    tripped: [],
    ...over,
  }) as BenchState
const leg = (sentence: string, over = {}) => ({
  sentence,
  seconds: 5,
  lowest: 0,
  highest: 1000,
  end: 1000,
  cycles: 0,
  outline: [] as number[],
  ...over,
})
const paper = {
  sentence: '',
  seconds: 15,
  cycles: 10,
  lowest: 0,
  highest: 1800,
  legs: [
    leg('To 1000 N at 200 N/s.'),
    leg('10 cycles between 200 and 1800 N', { cycles: 10, lowest: 200, highest: 1800, end: 1000 }),
    leg('To 0 N', { end: 0 }),
  ],
} // prettier-ignore

const screen = (over: Partial<BenchState>, shown = <Controls context={context()} state={recording(over)} />) =>
  render(<QueryClientProvider client={queryClient}>{shown}</QueryClientProvider>) // prettier-ignore
const context = (over: Partial<Setup> = {}) => ({
  setup: setup(over),
  bench: { id: 7, name: 'Shed', devices: [amplifier], yoke_mine: true } as unknown as Bench,
  chosen: null,
  choose: () => {},
})
const words = (box: HTMLElement) =>
  [...box.querySelectorAll('button')].map((b) => b.firstChild!.textContent)

beforeEach(() => {
  queryClient.setQueryData(sessionQuery.queryKey, {
    username: 'x', name: 'X', role: 'technician', may: ['drive the bench', 'change the specimen'],
  } as never) // prettier-ignore
  for (const action of Object.values(actions))
    if (vi.isMockFunction(action)) action.mockReset().mockResolvedValue(undefined)
})

it('a run that records is paused, and what waits is gone on with', async () => {
  const running = await screen({})
  expect(words(running)).toEqual(['Stop recording', 'Pause', 'Marker', 'Emergency stop'])
  await pressed(running, 'Pause')
  expect(actions.commandRun).toHaveBeenLastCalledWith(5, 'pause')
  for (const over of [
    { paused: 'Paused' },
    { programme: { ...under, held: 'F went above', waits: true } },
    { programme: { ...under, waits: true } },
  ]) {
    const waiting = await screen(over)
    expect(words(waiting)).toContain('Go on')
    await pressed(waiting, 'Go on')
    expect(actions.commandRun).toHaveBeenLastCalledWith(5, 'go_on')
  }
})

it('the legs say which are done, how far this one is, and what a person may do', async () => {
  const box = await render(<Legs setup={setup({ paper })} state={recording()} />)
  const current = box.querySelector('[aria-current=step]')!
  expect(current.textContent).toContain('2. 10 cycles between 200 and 1800 N')
  expect(current.textContent).toContain('round 2, 4 of 10 cycles')
  expect(words(box)).toEqual(['Hold here', 'Skip leg', 'End gently'])
  await pressed(box, 'Hold here')
  expect(actions.commandRun).toHaveBeenLastCalledWith(5, 'hold')
  const held = recording({ programme: { ...under, held: 'Held by a person', waits: true } })
  expect(words(await render(<Legs setup={setup({ paper })} state={held} />))).toEqual([
    'Skip leg',
    'End gently',
  ])
  const gentle = { ...under, legs: 2, words: 'To 0 N at 200 N/s.', round: null }
  const ending = await render(
    <Legs setup={setup({ paper })} state={recording({ programme: gentle })} />,
  )
  expect([...ending.querySelectorAll('li')].map((li) => li.textContent)).toEqual([
    '1. To 1000 N at 200 N/s.',
    '2. To 0 N at 200 N/s.0:02',
  ])
  const over = recording({ programme: { ...under, leg: 4 } })
  expect(words(await render(<Legs setup={setup({ paper })} state={over} />))).toEqual([])
})

it('a programme on paper says its time, its cycles and its forces', async () => {
  const box = await render(<PaperPlot paper={paper} />)
  expect(box.textContent).toBe('On paper: 0:15, 10 cycles, 0.00 to 1.80 kN')
  const open = await render(<PaperPlot paper={{ ...paper, seconds: null, cycles: 0 }} />)
  expect(open.textContent).toContain('as long as it takes')
})

it('the newest markers stand beside the controls, a guard in red', async () => {
  const marker = (id: number, kind: 'person' | 'guard', text: string) => ({ id, at_s: 65, kind, text, by: '' })
  queryClient.setQueryData(markersQuery(5).queryKey, {
    items: [marker(4, 'guard', 'F went above'), marker(3, 'person', 'sound'), marker(2, 'person', 'b'), marker(1, 'person', 'c')],
    next: null,
    count: 4,
  }) // prettier-ignore
  const box = await screen({}, <Markers run={5} />)
  expect([...box.querySelectorAll('li')].map((li) => li.textContent)).toEqual([
    'F went above1:05',
    'sound1:05',
    'b1:05',
  ])
}) // prettier-ignore

it('legs are added, moved earlier and taken out; guards get the channel first wired', async () => {
  const legs = [
    { kind: 'to_force', force_n: 1000, rate_n_s: 200 },
    { kind: 'hold', seconds: 5 },
  ] as const
  const motion = { kind: 'programme', legs: [...legs], unload_n_s: 200 } as Setup['motion']
  const box = await screen({}, <ProgrammePanel setup={setup({ motion, paper })} recording={false} />)
  await pressed(box, 'Earlier: 2. Hold')
  expect(actions.changeSetup).toHaveBeenLastCalledWith(1, {
    motion: { ...motion, legs: [legs[1], legs[0]] },
  })
  await pressed(box, 'Take out: 1. To a force')
  expect(actions.changeSetup).toHaveBeenLastCalledWith(1, { motion: { ...motion, legs: [legs[1]] } })
}) // prettier-ignore

it('a bench that moves proposes its guards at capacity, and takes none by itself', async () => {
  const guard = { kind: 'outside', channel: 'force', lowest: -25e3, highest: 25e3, action: 'hold', debounce_s: 0 } as const
  const shown = context({ proposed_guards: [guard], channels: [channel({ key: 'force', name: 'F' })] })
  const box = await screen({}, <Controls context={shown} state={{ phase: 'idle', motion: 'HOLD' } as BenchState} />)
  expect(actions.changeSetup).not.toHaveBeenCalled()
  await pressed(box, 'Guard F at capacity')
  expect(actions.changeSetup).toHaveBeenCalledWith(1, { guards: [guard] })
}) // prettier-ignore
