import { expect, it } from 'vitest'

import type { Calibration, PlanStep } from '../../../api/calibrations'
import { UNITS } from '../../../ui/testing-data'
import { learnUnits } from '../../../ui/units'
import { largestOf, nearness, residuals, steadyIn, stepWords } from './figures'

const step = (number: number, stage: PlanStep['stage'], load: number): PlanStep =>
  ({ number, stage, load, series: 0, rotation: 0, captured: false, left_out: '' }) as PlanStep

const loads = [
  { load: 2000, rising: [1e-4, null], falling: [3e-4, null] },
  { load: 10000, rising: [-1e-4, 2e-4], falling: [null, null] },
]
const calibration = {
  steady: 1e-4,
  steps: [
    step(0, 'zero', 0),
    step(1, 'rising', 2000),
    step(2, 'rising', 10000),
    step(3, 'falling', 2000),
    step(4, 'zero after', 0),
  ],
  evaluation: { loads },
} as unknown as Calibration

it('says what is to be done before the load', () => {
  expect(calibration.steps.map(stepWords)).toEqual([
    'Without load: settle on',
    'Rising: settle on',
    'Rising: settle on',
    'Falling: settle on',
    'All load off: settle on',
  ])
})

it('counts a reading as at its load when it is nearer to it than to any other', () => {
  expect(largestOf(calibration)).toBe(10000)
  expect(nearness(calibration)).toBeCloseTo(800)
})

it('says in the unit of the channel how much still counts as steady', () => {
  learnUnits(UNITS)
  expect(steadyIn(calibration, 'kN')).toBeCloseTo(0.001)
})

it('gives residuals series by series, without what was not captured', () => {
  const { rising, falling } = residuals(calibration)
  expect(rising).toEqual([
    [
      { load: 2000, value: 0.01 },
      { load: 10000, value: -0.01 },
    ],
    [{ load: 10000, value: 0.02 }],
  ])
  expect(falling).toEqual(
    [[{ load: 2000, value: 0.03 }], []].map((s) =>
      s.map((r) => ({ ...r, value: expect.closeTo(r.value, 9) as unknown as number })),
    ),
  )
})
