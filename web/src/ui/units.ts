/** Units of quantities and signals; the server's list, learnt once after signing in. */

export interface Unit {
  quantity: string
  name: string
  factor: number
  offset: number
}

let known = new Map<string, Unit>()
let byQuantity = new Map<string, string[]>()

export function learnUnits(units: readonly Unit[]): void {
  known = new Map(units.map((u) => [u.name, u]))
  byQuantity = new Map()
  for (const { quantity, name } of units)
    byQuantity.set(quantity, [...(byQuantity.get(quantity) ?? []), name])
}

/** A unit that is made of others, as of a computed channel: it is no choice of any quantity. */
export function learnUnit(name: string, factor: number, offset: number): void {
  if (!known.has(name)) known.set(name, { quantity: '', name, factor, offset })
}

/** Units that a quantity may be shown in, the usual one first. */
export const unitsOf = (quantity: string): readonly string[] => byQuantity.get(quantity) ?? []

/** What the job measures, but for signals. */
export const quantities = (): readonly string[] => MEASURED.filter((q) => byQuantity.has(q))

const MEASURED = [
  'force',
  'displacement',
  'extension',
  'strain',
  'stress',
  'pressure',
  'temperature',
  'torque',
  'speed',
  'acceleration',
  'voltage',
  'angle',
]

/** The unit in which people speak of an input's signal. */
export const signalUnit = (signal: string): string => unitsOf(signal)[0] ?? ''

export function fromSi(value: number, unit: string): number {
  const { factor, offset } = known.get(unit) ?? { factor: 1, offset: 0 }
  return (value - offset) / factor
}

export function toSi(value: number, unit: string): number {
  const { factor, offset } = known.get(unit) ?? { factor: 1, offset: 0 }
  return value * factor + offset
}

/** A difference or a slope in a unit, in SI: an offset plays no part. */
export const spanToSi = (span: number, unit: string): number =>
  span * (known.get(unit)?.factor ?? 1)

/** The way back. */
export const spanFromSi = (span: number, unit: string): number =>
  span / (known.get(unit)?.factor ?? 1)
