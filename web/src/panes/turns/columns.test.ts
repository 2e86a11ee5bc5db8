import { beforeAll, expect, it } from 'vitest'

import { learnUnits } from '../../ui/units'
import { cyclesOf } from './columns'

beforeAll(() => learnUnits([{ quantity: 'force', name: 'kN', factor: 1000, offset: 0 }]))

const columns = (...values: number[]) => Float32Array.from(values)

it('two rows are a cycle, whichever of them is the higher', () => {
  const low = columns(200, 1800, 1800, 250, 300)
  const kept = { rows: 5, seconds: low, low, high: low }
  expect(cyclesOf(kept, 10, 'kN')).toEqual([
    [10, 20],
    [0.2, 0.25],
    [1.8, 1.8],
  ])
})

it('a column of several cycles has both ends; what is not known is no value', () => {
  const kept = {
    rows: 80,
    seconds: columns(1, 2),
    low: columns(200, NaN),
    high: columns(1800, 2000),
  }
  const [x, low, high] = cyclesOf(kept, 1, 'kN')
  expect(x).toEqual([20, 40])
  expect(low).toEqual([0.2, null].map((v) => v && expect.closeTo(v)))
  expect(high).toEqual([1.8, 2])
})
