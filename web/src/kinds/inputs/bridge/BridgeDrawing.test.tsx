import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import type { Channel } from '../../../api/client'
import { LiveProvider } from '../../../live/LiveProvider'
import { render } from '../../../ui/testing'
import { amplifier, bridge, channel, quarter } from '../../../ui/testing-data'
import { bridge as kind } from '.'
import type { InputKind } from '../input'
import { brokenSides, MarksContext, marksOf, type Check } from '../drawing/marks'

const { Drawing } = kind as unknown as InputKind

class SilentSocket {
  close() {}
}
beforeEach(() => vi.stubGlobal('WebSocket', SilentSocket))
afterEach(() => vi.unstubAllGlobals())

const drawing = async (of: Channel) =>
  render(
    <LiveProvider benchId={1}>
      <Drawing channel={of} device={amplifier} />
    </LiveProvider>,
  )

it('draws a quarter bridge with its grid, its lead and its completion', async () => {
  const box = await drawing(quarter())
  const text = box.textContent!
  for (const words of ['SG1', '350.0', 'arm 1', '350.00', 'completion, arm 2', '0.77', 'E+ 5.000'])
    expect(text).toContain(words)
  expect(box.querySelectorAll('circle.n, text.n').length).toBeGreaterThan(0)
})

it('completes a 120 ohm grid with 120 ohm', async () => {
  const box = await drawing(quarter({ completion_ohm: 120 }))
  expect(box.textContent).toContain('120.00')
})

const found = (over: Partial<Check> = {}): Check => ({
  at: '2026-11-26T11:42:07Z',
  old: false,
  passed: false,
  title: 'Brown core is broken between pin 1 and the grid',
  short: 'Broken core',
  hint: 'Look at its solder joint and at pin 1, then check again.',
  causes: [{ kind: 'broken core', title: '', hint: '', pins: [1], arms: [] }],
  others: [
    {
      title: 'The grid is open',
      causes: [{ kind: 'open arm', title: '', hint: '', pins: [], arms: [1] }],
    },
  ],
  parted_by: 'Measure across the grid.',
  findings: [],
  ...over,
})

it('marks what a check found on the drawing, and nothing once the wiring was changed', async () => {
  const marked = (check: Check | null) => marksOf(quarter({ check }))
  expect(marked(found())).toEqual({ broken: [1], pins: [1], arms: [1], polarity: 'as wired' })
  expect(marked(found({ old: true }))).toEqual({
    broken: [],
    pins: [],
    arms: [],
    polarity: 'as wired',
  })
  expect(brokenSides(quarter({ check: found() }))).toEqual([1])
  expect(brokenSides(quarter({ check: found({ passed: true, causes: [], others: [] }) }))).toEqual(
    [],
  )
  const box = await render(
    <MarksContext value={marked(found())}>
      <LiveProvider benchId={1}>
        <Drawing channel={quarter()} device={amplifier} />
      </LiveProvider>
    </MarksContext>,
  )
  expect(box.querySelectorAll('[aria-label=broken]').length).toBe(1)
})

it('draws a half bridge as two grids in series, with the joint as its signal', async () => {
  const box = await drawing(quarter({ wiring: bridge({ circuit: 'half_bending' }) }))
  for (const words of ['arm 1', 'arm 2', 'joint', 'half bridge inside'])
    expect(box.textContent).toContain(words)
  const pins = [...box.querySelectorAll('text.n')].map((t) => t.textContent)
  expect(pins.filter((p) => ['1', '4', '6'].includes(p!))).toEqual(['1', '4', '6'])
  expect(pins).not.toContain('3')
})

it('draws the sense cores of a half bridge with five', async () => {
  const box = await drawing(quarter({ wiring: bridge({ circuit: 'half_bending', wires: 5 }) }))
  const pins = [...box.querySelectorAll('text.n')].map((t) => t.textContent)
  expect(pins.filter((p) => /^[1-6]$/.test(p!))).toEqual(['1', '2', '4', '5', '6'])
})

it('draws opposite grids alone on the part, and the other two arms in the amplifier', async () => {
  const wiring = bridge({ circuit: 'half_opposite', wires: 4 })
  const box = await drawing(quarter({ wiring, active_arms: [1, 3], completion_ohm: 350 }))
  const numbers = [...box.querySelectorAll('text.n')].map((t) => t.textContent)
  expect(numbers.filter((n) => ['1', '3'].includes(n!)).length).toBeGreaterThan(0)
  for (const words of ['completion, arm 2', 'completion, arm 4', '350.00'])
    expect(box.textContent).toContain(words)
})

it('draws no third core of a gauge with two', async () => {
  const box = await drawing(quarter({ wiring: bridge({ wires: 2 }) }))
  expect(box.textContent).not.toContain('no current')
})

it('draws sense wires only where there are six cores', async () => {
  expect((await drawing(channel())).textContent).toContain('sense: holds E')
  expect(
    (await drawing(channel({ wiring: bridge({ circuit: 'full_axial', wires: 4 }) }))).textContent,
  ).not.toContain('sense: holds E')
})

it('shows no figure while no reading arrives', async () => {
  expect((await drawing(channel())).textContent).toContain('– mV/V')
})
