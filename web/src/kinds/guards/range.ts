/** Between which a guard's scale is drawn; an open end lies twice as far as the other one. */
export function rangeOf(
  low: number | null | undefined,
  high: number | null | undefined,
): [number, number] {
  const from = low ?? (high ?? 0) - 2 * Math.abs(high ?? 1)
  return [from, high ?? (low ?? 0) + 2 * Math.abs(low ?? 1)]
}

/** How far a value is between two others; at an end where it is beyond. */
export const shareOf = (value: number, from: number, to: number): number =>
  Math.min(1, Math.max(0, (value - from) / (to - from || 1)))
