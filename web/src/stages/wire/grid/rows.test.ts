import { expect, it } from 'vitest'

import type { Bench, Channel } from '../../../api/client'
import { amplifier, channel, quarter, setup } from '../../../ui/testing-data'
import { freeLabel } from '../../../devices/labels'
import { inputsOf, linesOf, type Line } from './rows'

const input = (id: number, number: number) => ({
  id,
  number,
  label: `1.${number}`,
  signal: 'bridge ratio',
})
const bench = {
  devices: [
    { ...amplifier, inputs: [1, 2, 3].map((n) => input(n, n)) },
    { ...amplifier, id: 2, label: 'A2', serial: '', inputs: [input(11, 1)] },
  ],
} as unknown as Bench

const check = { passed: false, old: false, title: 'Broken core' } as NonNullable<Channel['check']>
const wired = setup({ channels: [channel(), quarter({ check })] })
const said = (lines: Line[]) =>
  lines.map((l) => (l.kind === 'group' ? `# ${l.title}` : `${l.label} ${l.channel?.name ?? '-'}`))

it('shows every input under its device, wired or free', () => {
  const lines = linesOf(bench, wired, 'device', '')
  expect(said(lines)).toEqual(['# A1', 'A1.1 F', 'A1.2 -', 'A1.3 SG1', '# A2', 'A2.1 -'])
  const [first, , , , second] = lines
  expect(first).toMatchObject({ words: 'serial 20417, firmware 3.2', right: '2 of 3 wired' })
  expect(first).toMatchObject({ faults: 1 })
  expect(second).toMatchObject({ words: 'has not answered yet', right: '0 of 1 wired' })
})

it('shows wired ones under the kind of their sensor', () => {
  const lines = linesOf(bench, wired, 'sensor', '')
  expect(inputsOf(lines).map((l) => l.channel!.name)).toEqual(['F', 'SG1'])
})

it('finds by label, name, serial, fault, and the free ones', () => {
  const found = (words: string) =>
    inputsOf(linesOf(bench, wired, 'device', words)).map((l) => l.label)
  expect(found('a2')).toEqual(['A2.1'])
  expect(found(' sg1 ')).toEqual(['A1.3'])
  expect(found('lc-2207')).toEqual(['A1.1', 'A1.3'])
  expect(found('broken')).toEqual(['A1.3'])
  expect(found('free')).toEqual(['A1.2', 'A2.1'])
  expect(found('nobody')).toEqual([])
})

it('counts no fault of a wiring that was changed since', () => {
  const old = setup({ channels: [quarter({ check: { ...check, old: true } })] })
  expect(linesOf(bench, old, 'device', '')[0]).toMatchObject({ faults: 0 })
})

it('gives a new device a label that is free', () => {
  expect(freeLabel('bridge amplifier', bench)).toBe('A3')
  expect(freeLabel('weighing indicator', bench)).toBe('W1')
  expect(freeLabel('something new', bench)).toBe('D1')
})
