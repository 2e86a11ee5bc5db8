/** Ranges that were looked at, one after the other, to go back to and forward again. */

export type Range = readonly [number, number]

export interface Zooms {
  readonly ranges: readonly (Range | null)[] // null: everything
  readonly at: number
}

export const UNZOOMED: Zooms = { ranges: [null], at: 0 }
const MAX_KEPT = 50
const MIN_SPAN = 1e-9

export const shownRange = ({ ranges, at }: Zooms): Range | null => ranges[at] ?? null

/** A range more; those that were gone back from are forgotten. */
export function zoomed(zooms: Zooms, range: Range | null): Zooms {
  if (range && !(range[1] - range[0] > MIN_SPAN)) return zooms
  const ranges = [...zooms.ranges.slice(0, zooms.at + 1), range].slice(-MAX_KEPT)
  return { ranges, at: ranges.length - 1 }
}

/** One step back (-1) or forward (1), as far as there is one. */
export const stepped = (zooms: Zooms, by: number): Zooms => ({
  ...zooms,
  at: Math.max(0, Math.min(zooms.ranges.length - 1, zooms.at + by)),
})

/** A range `factor` as wide about a point that stays where it is. */
export const about = ([from, to]: Range, point: number, factor: number): Range => [
  point - (point - from) * factor,
  point + (to - point) * factor,
]

export const moved = ([from, to]: Range, share: number): Range => {
  const by = (to - from) * share
  return [from + by, to + by]
}
