import type { Channel } from '../../api/client'
import { parseNumber } from '../../ui/format'
import { fromSi, spanFromSi, toSi } from '../../ui/units'

/** Scalings of many numbers: tables of points and polynomials, between SI and what is shown. */

type Of<K> = Extract<Channel['scaling'], { kind?: K }>
export type TableScaling = Of<'table'>
export type PolynomialScaling = Of<'polynomial'>
type Points = TableScaling['points']

/** Two columns of a text as points, by rising signal; null where it is not that. */
export function pointsOf(text: string, signal: string, unit: string): Points | null {
  const rows = text
    .trim()
    .split(/\r?\n/)
    .map((line) => line.split(/[\t;]|\s{2,}| /).filter((f) => f.trim() !== ''))
  if (rows.length < 2) return null
  const numbers = rows.map((fields) => fields.map(parseNumber))
  if (numbers.some((row) => row.length !== 2 || row.includes(null))) return null
  return numbers
    .map(([s, v]) => ({ signal: toSi(s!, signal), value: toSi(v!, unit) }))
    .sort((a, b) => a.signal - b.signal)
}

/** How many SI units one more of the signal's unit is. */
const perSignal = (signal: string) => 1 / spanFromSi(1, signal)

/** The coefficient of a power of the signal, in shown units. */
export const coefficientFromSi = (
  c: number,
  power: number,
  signal: string,
  unit: string,
): number => (power === 0 ? fromSi(c, unit) : spanFromSi(c * perSignal(signal) ** power, unit))

export const coefficientToSi = (
  shown: number,
  power: number,
  signal: string,
  unit: string,
): number =>
  power === 0 ? toSi(shown, unit) : shown / spanFromSi(perSignal(signal) ** power, unit)
