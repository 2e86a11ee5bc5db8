/** Where an axis of a pane begins and ends: typed, or as the data ask for. */

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
