import { beforeAll, expect, it } from 'vitest'

import { channel, UNITS } from '../../../ui/testing-data'
import { learnUnits } from '../../../ui/units'
import { rounded, smallSignal, span } from './small'

beforeAll(() => learnUnits(UNITS))

it('noise has three figures that count at any size', () => {
  expect(rounded(0.0000414)).toBe('0.000041')
  expect(rounded(12.345)).toBe('12.3')
  expect(rounded(1591)).toBe('1590')
  expect(rounded(0.5)).toBe('0.5')
})

it('a signal is said a thousandth smaller, a quantity in its own unit', () => {
  const gauge = channel({ signal: 'bridge ratio', unit: 'µm/m' })
  expect(smallSignal(gauge, 5.86e-8)).toEqual(['0.0586', 'µV/V'])
  expect(smallSignal(gauge, null)[0]).toBe('–')
  expect(span(gauge, -1.5e-6)).toBe('1.5')
})
