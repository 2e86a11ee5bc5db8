import { QueryClientProvider } from '@tanstack/react-query'
import { beforeEach, expect, it, vi } from 'vitest'

import type { Channel } from '../../api/client'
import { changeChannel } from '../../api/actions'
import { driversQuery, queryClient } from '../../api/queries'
import { pressed, render } from '../../ui/testing'
import { bridge, channel, quarter, UNITS } from '../../ui/testing-data'
import { learnUnits } from '../../ui/units'
import { WiringForm } from './WiringForm'

vi.mock('../../api/actions', () => ({ changeChannel: vi.fn(async () => {}) }))

const driver = {
  name: 'bridge amplifier',
  signals: [],
  capabilities: [],
  excitations_v: [1, 2.5, 5],
  ranges_mv_v: [2, 8, 40, 500],
  carriers_hz: [0, 4800],
}

beforeEach(() => {
  learnUnits(UNITS)
  queryClient.clear()
  queryClient.setQueryData(driversQuery.queryKey, [driver])
  vi.mocked(changeChannel).mockClear()
})

const form = (of: Channel, disabled = false) =>
  render(
    <QueryClientProvider client={queryClient}>
      <WiringForm channel={of} driver="bridge amplifier" disabled={disabled} />
    </QueryClientProvider>,
  )
const choices = (box: HTMLElement, label: string) =>
  [...box.querySelector(`[aria-label="${label}"]`)!.querySelectorAll('button')].map(
    (b) => b.textContent,
  )

it('offers what the device offers, and sets it', async () => {
  const box = await form(quarter())
  expect(choices(box, 'Excitation')).toEqual(['1', '2.5', '5'])
  expect(choices(box, 'Range')).toEqual(['2', '8', '40', '500'])
  await pressed(box, '2.5')
  const conditioning = {
    kind: 'bridge',
    excitation_v: 2.5,
    range_mv_v: 8,
    carrier_hz: 0,
    balance: 0,
  }
  expect(changeChannel).toHaveBeenCalledWith(3, { conditioning })
})

it('says how warm a grid gets, and what to excite it with', async () => {
  const wiring = bridge({ grid_area_m2: 4e-6, ground: 'plastic' })
  const heating = { density_w_m2: 4464, carries_w_m2: 300, best_v: 1, passed: false }
  const box = await form(quarter({ wiring, heating }))
  expect(box.textContent).toContain('Self-heating 4.5 kW/m² on this grid; plastic carries 0.30')
  expect(box.textContent).toContain('Excite it with 1 V.')
  const none = await form(quarter({ wiring, heating: { ...heating, best_v: 0 } }))
  expect(none.textContent).toContain('take a gauge of more resistance')
})

const tapped = (kind: 'potentiometer' | 'inductive_half', carrier_hz: number) =>
  channel({
    wiring: { kind, resistance_ohm: 350 },
    conditioning: { kind: 'bridge', excitation_v: 2.5, range_mv_v: 500, carrier_hz, balance: 0 },
  })

it('warns of coils on direct current, and puts them on the carrier', async () => {
  const box = await form(tapped('inductive_half', 0))
  expect(choices(box, 'Carrier')).toEqual(['DC', '4.8 kHz'])
  expect(box.textContent).toContain('Coils give nothing on direct current')
  await pressed(box, '4.8 kHz')
  expect(vi.mocked(changeChannel).mock.lastCall![1].conditioning).toMatchObject({
    carrier_hz: 4800,
  })
  for (const well of [tapped('inductive_half', 4800), tapped('potentiometer', 0)])
    expect((await form(well)).textContent).not.toContain('Coils give nothing')
})

it('says who supplies a loop', async () => {
  const loop = (wires: number) =>
    channel({
      wiring: { kind: 'loop', wires, resistor_ohm: 50 },
      conditioning: { kind: 'fixed' },
    })
  expect((await form(loop(2))).textContent).toContain('two cores, the loop supplies it')
  expect((await form(loop(3))).textContent).toContain('three cores, a supply of its own')
})

it('changes nothing for who may only look', async () => {
  const box = await form(quarter(), true)
  expect([...box.querySelectorAll('button')].every((b) => b.disabled)).toBe(true)
  expect(
    [...box.querySelectorAll('input, select')].every((f) => (f as HTMLInputElement).disabled),
  ).toBe(true)
})
