import { beforeEach, expect, it, vi } from 'vitest'

import type { Channel } from '../../../api/client'
import { render } from '../../../ui/testing'
import { amplifier, channel, UNITS } from '../../../ui/testing-data'
import { learnUnits } from '../../../ui/units'
import { PulseDrawing } from '../pulses/PulseDrawing'
import { inputKind } from '..'

const reading = { mean: 0, deviation: 0, clipped: false, raw: 0 }
vi.mock('../../../live/LiveProvider', () => ({ useReading: () => ({ ...reading }) }))
beforeEach(() => {
  learnUnits(UNITS)
  Object.assign(reading, { clipped: false, raw: 0 })
})

const tapped = (kind: 'potentiometer' | 'inductive_half', carrier_hz: number): Channel =>
  channel({
    wiring: { kind, resistance_ohm: 5000 },
    conditioning: { kind: 'bridge', excitation_v: 2.5, range_mv_v: 500, carrier_hz, balance: 0 },
  })
const drawn = (of: Channel) => {
  const { Drawing } = inputKind(of)
  return render(<Drawing channel={of} device={amplifier} />)
}
/** How high the wiper's core leaves the track. */
const tap = (box: HTMLElement) =>
  Number(
    [...box.querySelectorAll('path')]
      .map((p) => /^M148 ([\d.]+)V210/.exec(p.getAttribute('d') ?? '')?.[1])
      .find(Boolean),
  )

it('draws the wiper where it stands, and no farther than its ends', async () => {
  const potentiometer = tapped('potentiometer', 0)
  expect(tap(await drawn(potentiometer))).toBe(210)
  reading.raw = -0.25
  expect(tap(await drawn(potentiometer))).toBe(180)
  reading.raw = 0.9
  expect(tap(await drawn(potentiometer))).toBe(270)
})

it('says what excites it, and that it is clipped', async () => {
  expect((await drawn(tapped('potentiometer', 0))).textContent).toContain('direct current')
  reading.clipped = true
  const box = await drawn(tapped('inductive_half', 4800))
  for (const words of ['carrier 4.8 kHz', 'V, AC', 'Clipped'])
    expect(box.textContent).toContain(words)
})

it('says of a wheel without pulses that it stands, or that a core is off', async () => {
  const wheel = channel({
    wiring: { kind: 'pulses' },
    conditioning: { kind: 'fixed' },
  })
  const still = await render(<PulseDrawing channel={wheel} device={amplifier} />)
  expect(still.textContent).toContain('it stands, or a core is off')
  reading.raw = 70
  const turning = await render(<PulseDrawing channel={wheel} device={amplifier} />)
  expect(turning.textContent).toContain('70.00 Hz')
  expect(turning.textContent).toContain('pulses a second')
})
