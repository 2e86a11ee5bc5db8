import { useQuery } from '@tanstack/react-query'

import { zerosQuery } from '../../api/calibrations'
import type { Channel } from '../../api/client'
import { clock, day, figure } from '../../ui/format'
import { fromSi, signalUnit } from '../../ui/units'

const [WIDTH, HEIGHT, EDGE] = [260, 44, 4]

/** The zeros of a channel as a small curve, one after the other. */
export function ZeroHistory({ channel: c }: { channel: Channel }) {
  const found = useQuery(zerosQuery(c)).data ?? []
  const zeros = found.flatMap((z) => (z.zero === null ? [] : [{ at: z.at, value: z.zero }]))
  if (zeros.length < 2) return null
  const signal = signalUnit(c.signal)
  const values = zeros.map((z) => fromSi(z.value, signal))
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const x = (i: number) => EDGE + (i / (values.length - 1)) * (WIDTH - 2 * EDGE)
  const y = (v: number) => HEIGHT - EDGE - ((v - low) / (high - low || 1)) * (HEIGHT - 2 * EDGE)
  const [first, last] = [zeros[0]!, zeros.at(-1)!]
  const since = day(first.at) === day(last.at) ? clock(first.at) : day(first.at)
  return (
    <figure className="text-small text-soft">
      <figcaption>
        {zeros.length} zeros since {since}, within{' '}
        <span className="figure text-ink">{figure(high - low, 5)}</span> {signal}
      </figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" aria-hidden="true">
        <polyline
          points={values.map((v, i) => `${x(i)},${y(v)}`).join(' ')}
          fill="none"
          style={{ stroke: 'var(--curve-1)' }}
          strokeWidth={1.4}
        />
        {values.map((v, i) => (
          <circle key={i} cx={x(i)} cy={y(v)} r={2} style={{ fill: 'var(--curve-1)' }} />
        ))}
      </svg>
    </figure>
  )
}
