import { beforeAll, describe, expect, it } from 'vitest'

import { duration, figure, parseNumber, resultFigure } from './format'
import { fromSi, learnUnits, signalUnit, spanFromSi, toSi, unitsOf } from './units'
import { UNITS } from './testing-data'

describe('figure', () => {
  it.each([
    [1.2345, 2, '1.23'],
    [-0.5, 1, '\u22120.5'],
    [-0.0001, 2, '0.00'],
    [12345.6, 1, '12\u2009345.6'],
    [9999, 0, '9999'],
    [null, 2, '–'],
    [Number.NaN, 2, '–'],
  ])('%s with %s decimals reads %s', (value, decimals, text) => {
    expect(figure(value, decimals)).toBe(text)
  })
})

it('a result too long or too small to read becomes a power of ten', () => {
  expect(resultFigure(11450, 0)).toBe('11\u2009450')
  expect(resultFigure(1.2345e9, 0)).toBe('1.234 × 10⁹')
  expect(resultFigure(4.1e-9, 6)).toBe('4.100 × 10⁻⁹')
  expect(resultFigure(0, 6)).toBe('0.000000')
})

describe('parseNumber', () => {
  it.each([
    ['2,08', 2.08],
    ['\u22121.5', -1.5],
    ['12 345', 12345],
    ['two', null],
    ['', null],
    ['1e', null],
  ])('%s gives %s', (text, value) => expect(parseNumber(text)).toBe(value))
})

beforeAll(() => learnUnits(UNITS))

it('converts display units both ways', () => {
  expect(fromSi(11723, 'kN')).toBeCloseTo(11.723)
  expect(toSi(fromSi(4.2e-4, 'µm/m'), 'µm/m')).toBeCloseTo(4.2e-4)
})

it('knows units that begin elsewhere than at zero', () => {
  expect(fromSi(295.15, '°C')).toBeCloseTo(22)
  expect(toSi(22, '°C')).toBeCloseTo(295.15)
  expect(spanFromSi(3, '°C')).toBe(3)
  expect(unitsOf('force')).toEqual(['kN', 'N'])
  expect(signalUnit('bridge ratio')).toBe('mV/V')
})

it('shows hours only when there are any', () => {
  expect([duration(7.9), duration(723), duration(21901)]).toEqual(['0:07', '12:03', '6:05:01'])
})
