import { act } from 'react'
import { beforeEach, expect, it, vi } from 'vitest'

import { channel, quarter, UNITS } from '../../ui/testing-data'
import { pressed, render, type } from '../../ui/testing'
import { learnUnits } from '../../ui/units'
import type { Stop } from '../form'
import { StopList } from './StopList'

const drop: Stop = { kind: 'force_drop', share: 0.4, arm_n: 500 }
const limit: Stop = { kind: 'limit', channel: 'force', lowest: null, highest: 20e3 }
const channels = [channel(), quarter()]
const save = vi.fn(async () => {})

beforeEach(() => {
  learnUnits(UNITS)
  save.mockClear()
})

const list = (stops: Stop[], disabled = false) =>
  render(<StopList stops={stops} channels={channels} disabled={disabled} onSave={save} />)
const adding = (box: HTMLElement) =>
  [...box.querySelectorAll('select')].find((s) => s.value === '' && s.options.length > 1)

async function choose(select: HTMLSelectElement, value: string) {
  select.value = value
  await act(async () => select.dispatchEvent(new Event('change', { bubbles: true })))
}

it('adds a limit on the first channel, beside what there is', async () => {
  const box = await list([drop])
  await choose(adding(box)!, 'limit')
  const begun = { kind: 'limit', channel: 'force', lowest: null, highest: null }
  expect(save).toHaveBeenCalledWith([drop, begun])
})

it('offers each other end once, and limits again and again', async () => {
  const box = await list([drop, limit])
  const offered = [...adding(box)!.options].map((o) => o.value)
  expect(offered).toContain('limit')
  expect(offered).not.toContain('force_drop')
})

it('takes a limit in the unit of its channel, and empties it', async () => {
  const box = await list([limit])
  const [lowest, highest] = [...box.querySelectorAll('input')]
  expect(highest!.value).toBe('20.000')
  await type(lowest!, '-1,5', 'Enter')
  expect(save).toHaveBeenLastCalledWith([{ ...limit, lowest: -1500 }])
  await type(highest!, '', 'Enter')
  expect(save).toHaveBeenLastCalledWith([{ ...limit, highest: null }])
})

it('forgets the figures of a limit that goes to another channel', async () => {
  const box = await list([limit])
  await choose(box.querySelector('select')!, 'gauge')
  expect(save).toHaveBeenCalledWith([{ ...limit, channel: 'gauge', highest: null }])
})

it('says that the channel of a limit is no longer wired', async () => {
  const box = await list([{ ...limit, channel: 'gone' }])
  expect(box.querySelector('select')!.selectedOptions[0]!.textContent).toBe('no longer wired')
})

it('takes one out; who only looks is offered nothing', async () => {
  const box = await list([drop, limit])
  await pressed(box, 'Take out: Force falls')
  expect(save).toHaveBeenCalledWith([limit])
  const shown = await list([drop, limit], true)
  expect(shown.querySelector('button')).toBeNull()
  expect(adding(shown)).toBeUndefined()
})
