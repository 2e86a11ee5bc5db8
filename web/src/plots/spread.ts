/** Places moved apart so that none lies nearer than `gap` to another, as little as that needs. */
export function spread(places: readonly number[], gap: number, high: number): number[] {
  const order = places.map((_, i) => i).sort((a, b) => places[a]! - places[b]!)
  const moved = [...places]
  order.forEach((at, n) => {
    if (n) moved[at] = Math.max(moved[at]!, moved[order[n - 1]!]! + gap)
  })
  let limit = high
  for (const at of order.reverse()) {
    moved[at] = Math.min(moved[at]!, limit)
    limit = moved[at]! - gap
  }
  return moved
}
