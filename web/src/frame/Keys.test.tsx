import { act } from 'react'
import { MemoryRouter, useLocation } from 'react-router'
import { beforeEach, expect, it, vi } from 'vitest'

import type { Bench } from '../api/client'
import * as actions from '../api/actions'
import type { BenchState } from '../live/source'
import { render } from '../ui/testing'
import { amplifier, setup } from '../ui/testing-data'
import { Keys } from './Keys'

const live = vi.hoisted(() => ({ state: null as BenchState | null }))
vi.mock('../live/LiveProvider', () => ({ useLive: () => live }))
vi.mock('../api/actions', { spy: true })

const bench = { id: 7, name: 'Shed', devices: [amplifier], yoke_mine: true } as unknown as Bench
const away = setup({
  preflight: [{ code: 'actuator_not_home', stage: 'record', text: '', hint: '', blocks: true }],
})
const choose = vi.fn()

const Where = () => <output>{useLocation().pathname}</output>

const page = (chosen: number | null = null, of = setup()) =>
  render(
    <MemoryRouter>
      <Keys setup={of} bench={bench} chosen={chosen} choose={choose} />
      <input />
      <Where />
    </MemoryRouter>,
  )

async function press(key: string, init: KeyboardEventInit = {}, on: EventTarget = document.body) {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...init })
  await act(async () => void on.dispatchEvent(event))
}

beforeEach(() => {
  live.state = null
  for (const action of Object.values(actions))
    if (vi.isMockFunction(action)) action.mockReset().mockResolvedValue(undefined)
  vi.mocked(actions.toZero).mockReturnValue([1, 3])
  vi.mocked(actions.isAway).mockImplementation((s) => s.preflight.length > 0)
  choose.mockClear()
})

it('each key does its action', async () => {
  await page(3)
  await press('F7')
  await press('z')
  expect(vi.mocked(actions.zero).mock.calls).toEqual([
    [1, [3]],
    [1, [3]],
  ])
  await press('c')
  expect(actions.checkWiring).toHaveBeenCalledWith(1, [3])
  await press('P')
  expect(actions.resetPeaks).toHaveBeenCalledWith(7, ['gauge'])
  await press('Z', { ctrlKey: true, shiftKey: true })
  expect(actions.undo).toHaveBeenCalledWith(1, true)
  await press('2')
  expect(choose).toHaveBeenCalledWith(3)
})

it('without a chosen channel it is all of them, and Z is nothing', async () => {
  await page()
  await press('z')
  expect(actions.zero).not.toHaveBeenCalled()
  await press('F7')
  expect(actions.zero).toHaveBeenCalledWith(1, [1, 3])
  await press('c')
  expect(actions.checkWiring).toHaveBeenCalledWith(1, [1, 3])
})

it('G and a figure go to a stage, a figure alone chooses a channel', async () => {
  const box = await page()
  await press('g')
  await press('3')
  expect(box.querySelector('output')!.textContent).toBe('/setups/1/record')
  expect(choose).not.toHaveBeenCalled()
})

it('F8 acts on what the recorder said last', async () => {
  await page()
  await press('F8')
  live.state = { phase: 'recording' } as BenchState
  await press('F8')
  expect(vi.mocked(actions.startOrStop).mock.calls.map(([, busy]) => busy)).toEqual([false, true])
})

it('a key that is held down, with a glove on it, counts once', async () => {
  await page(3, away)
  for (const key of ['F8', 'F7', 'z', 'n', 'c']) {
    await press(key)
    await press(key, { repeat: true })
  }
  expect(actions.startOrStop).toHaveBeenCalledTimes(1)
  expect(actions.zero).toHaveBeenCalledTimes(2)
  expect(actions.returnForNext).toHaveBeenCalledTimes(1)
  expect(actions.checkWiring).toHaveBeenCalledTimes(1)
})

it('the actuator returns only from where it is away, and not while it records', async () => {
  await page()
  await press('n')
  await page(null, away)
  live.state = { phase: 'recording' } as BenchState
  await press('n')
  expect(actions.returnForNext).not.toHaveBeenCalled()
})

it('while somebody types, only Esc Esc is heard', async () => {
  const box = await page(3)
  const field = box.querySelector('input')!
  for (const key of ['z', 'c', 'p', 'n', '2', 'F8', 'F7']) await press(key, {}, field)
  await press('z', { ctrlKey: true }, field)
  for (const action of ['zero', 'checkWiring', 'startOrStop', 'resetPeaks', 'undo'] as const)
    expect(actions[action], action).not.toHaveBeenCalled()
  await press('Escape', {}, field)
  await press('Escape', { repeat: true }, field)
  expect(actions.emergencyStop).not.toHaveBeenCalled()
  await press('Escape', {}, field)
  expect(actions.emergencyStop).toHaveBeenCalledWith(7)
})
