import { expect, it } from 'vitest'

import { driftPerYear, dueWords, elapsed, standing } from './terms'

const TODAY = '2026-11-26'

it('says how a calibration stands', () => {
  expect(standing({ due_on: '2026-11-25' }, TODAY)).toBe('overdue')
  expect(standing({ due_on: TODAY }, TODAY)).toBe('soon')
  expect(standing({ due_on: '2026-12-26' }, TODAY)).toBe('soon')
  expect(standing({ due_on: '2026-12-27' }, TODAY)).toBe('in force')
  expect(standing({ due_on: null }, TODAY)).toBe('without')
})

it('says when it is due in words where that is near', () => {
  expect(dueWords('2026-10-16', TODAY)).toBe('overdue 41 days')
  expect(dueWords('2026-11-25', TODAY)).toBe('overdue 1 day')
  expect(dueWords(TODAY, TODAY)).toBe('due today')
  expect(dueWords('2026-12-10', TODAY)).toBe('in 14 days')
  expect(dueWords('2027-06-30', TODAY)).toBe('2027-06-30')
})

it('knows how much of the term has passed', () => {
  const half = { calibrated_on: '2026-05-27', due_on: '2027-05-28' }
  expect(elapsed(half, TODAY)).toBeCloseTo(0.5, 2)
  expect(elapsed({ calibrated_on: '2020-01-01', due_on: '2021-01-01' }, TODAY)).toBe(1)
  expect(elapsed({ calibrated_on: null, due_on: null }, TODAY)).toBe(0)
})

it('draws a straight line through calibrations', () => {
  const rise = driftPerYear([
    ['2024-03-14', 2.0],
    ['2025-03-14', 2.0002],
    ['2026-03-14', 2.0004],
  ])
  expect(rise).toBeCloseTo(1e-4, 6)
  expect(driftPerYear([['2026-03-14', 2]])).toBe(0)
})
