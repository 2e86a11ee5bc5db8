import { beforeAll, expect, it } from 'vitest'

import { columnsOf, hatchesOf } from './columns'
import { UNITS } from '../ui/testing-data'
import { learnUnits } from '../ui/units'

const segment = (start: number, low: number[], high: number[]) => ({
  start,
  step: 1,
  low: new Float32Array(low),
  high: new Float32Array(high),
})

beforeAll(() => learnUnits(UNITS))

it('no line bridges what is missing', () => {
  const [x, y] = columnsOf(
    [segment(0, [1000, 2000], [3000, 4000]), segment(10, [5000], [6000])],
    'kN',
  )
  expect([...x]).toEqual([0.5, 0.5, 1.5, 1.5, 10, 10.5, 10.5])
  expect([...y!]).toEqual([1, 3, 2, 4, null, 5, 6])
})

it('what is missing and what clipped is hatched', () => {
  const segments = [
    segment(0, [1, 2, 2, 1], [3, Infinity, Infinity, 3]),
    segment(10, [-Infinity], [6]),
  ]
  expect(hatchesOf(segments)).toEqual([
    { from: 1, to: 3, why: 'clipped' },
    { from: 4, to: 10, why: 'missing' },
    { from: 10, to: 11, why: 'clipped' },
  ])
  expect([...columnsOf(segments, 'N')[1]!]).toEqual([1, 3, 2, null, 2, null, 1, 3, null, null, 6])
})
