import { useEffect, useRef, useState } from 'react'

import { useReading } from '../../../live/LiveProvider'

/** s, for which a reading must stay where it is before it is captured by itself. */
export const STEADY_S = 2

interface Seen {
  at: number
  value: number
}

/**
 * For how long a channel has read within a range (SI); at most `STEADY_S`. What is captured is
 * measured and judged by the server: this only says when to ask for it.
 */
export function useSteady(key: string, range: number): number {
  const reading = useReading(key)
  const seen = useRef<Seen[]>([])
  const [steady, setSteady] = useState(0)
  const value = reading && !reading.clipped ? reading.value : NaN
  useEffect(() => {
    const at = performance.now() / 1000
    if (!Number.isFinite(value)) seen.current = []
    else seen.current.push({ at, value })
    const [kept, since] = within(seen.current, range)
    seen.current = kept.filter((s) => at - s.at <= STEADY_S + 0.5)
    setSteady(Number.isFinite(value) ? Math.min(at - since, STEADY_S) : 0)
  }, [value, reading, range])
  return steady
}

/** The newest values that lie within a range, and when the first of them came. */
function within(seen: readonly Seen[], range: number): [Seen[], number] {
  let [low, high] = [Infinity, -Infinity]
  for (let i = seen.length - 1; i >= 0; i--) {
    low = Math.min(low, seen[i]!.value)
    high = Math.max(high, seen[i]!.value)
    if (high - low > range) return [seen.slice(i + 1), seen[i + 1]!.at]
  }
  return [[...seen], seen[0]?.at ?? performance.now() / 1000]
}
