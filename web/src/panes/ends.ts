/** Where an axis of a pane begins and ends: typed, or as the data ask for. */

import type { Readable } from '../readable'
import { spanFromSi } from '../ui/units'
import type { OptionValue, PaneOptions } from './pane'

export type Ends = readonly [low: number | null, high: number | null]

const asNumber = (value: OptionValue | undefined): number | null =>
  typeof value === 'number' && Number.isFinite(value) ? value : null

/** The ends somebody typed for an axis, in the unit that it shows. */
export const endsOf = (options: PaneOptions, axis: string): Ends => [
  asNumber(options[`low ${axis}`]),
  asNumber(options[`high ${axis}`]),
]

export const withEnds = (axis: string, [low, high]: Ends): PaneOptions => ({
  [`low ${axis}`]: low,
  [`high ${axis}`]: high,
})

/** Typed ends in the place of those of the data; ends the wrong way round are turned. */
export function ranged(ends: Ends, [low, high]: readonly [number, number]): [number, number] {
  const [from, to] = [ends[0] ?? low, ends[1] ?? high]
  if (from === to) return [from - 0.5, to + 0.5]
  return from < to ? [from, to] : [to, from]
}

/** The least that an axis spans, SI, so that noise alone does not fill it. */
const MIN_SPANS: Record<string, number> = {
  force: 20,
  extension: 2e-5,
  displacement: 2e-5,
  strain: 2e-5,
  pressure: 2e4,
  temperature: 0.5,
}

/** What an axis of a channel spans at least, in its unit. */
export const leastSpan = ({ quantity, unit }: Readable): number =>
  spanFromSi(MIN_SPANS[quantity] ?? 1e-3, unit)

/** The range of what is measured, at least as wide as what its quantity makes worth seeing. */
export function fitted(low: number, high: number, channel: Readable): [number, number] {
  if (low == null || high == null) return [0, 1]
  const half = Math.max(high - low, leastSpan(channel)) * 0.56
  const centre = (low + high) / 2
  return [centre - half, centre + half]
}
