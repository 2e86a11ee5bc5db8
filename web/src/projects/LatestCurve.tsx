import { useQuery } from '@tanstack/react-query'

import type { SetupLine } from '../api/projects'
import { fetchView, type PlotSegment } from '../api/view'
import { figure } from '../ui/format'
import { fromSi } from '../ui/units'

const SIZE = { width: 184, height: 76 }
const LATE = 1e9 // s: to the end, however long the run is

/** The newest run of a setup, its force or first channel over the whole run. */
export function LatestCurve({ run }: { run: NonNullable<SetupLine['last_run']> }) {
  const view = useQuery({
    queryKey: ['view', run.id, run.channel, 'latest'],
    queryFn: ({ signal }) => fetchView(run.id, run.channel, [0, LATE], 2 * SIZE.width, signal),
    staleTime: run.state === 'recording' ? 2000 : Infinity,
    refetchInterval: run.state === 'recording' ? 2000 : false,
  }).data
  if (!view) return null // it is on the way
  if (!view.length) return <p className="text-soft">No samples yet.</p>
  const { path, low, high } = drawn(view)
  const said = (value: number) => figure(fromSi(value, run.unit), 3)
  return (
    <figure>
      <figcaption className="flex items-baseline gap-1 text-small">
        <b className="font-strong">{run.channel_name}</b>
        <span className="text-soft">{run.unit}</span>
      </figcaption>
      <svg
        viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
        className="w-full"
        role="img"
        aria-label={`${run.channel_name} from ${said(low)} to ${said(high)} ${run.unit}`}
      >
        <path d={`M0 ${SIZE.height - 0.5}H${SIZE.width}`} stroke="var(--rule-strong)" />
        <path d={path} fill="var(--curve-1)" stroke="var(--curve-1)" strokeWidth="1.2" />
      </svg>
      <p className="figure text-note text-soft">
        {said(low)} <span className="font-sans">to</span> {said(high)}
      </p>
    </figure>
  )
}

/** What lies between lowest and highest of each column, as one filled shape a segment. */
function drawn(segments: readonly PlotSegment[]): { path: string; low: number; high: number } {
  const finite = (values: Float32Array) => [...values].filter(Number.isFinite)
  const low = Math.min(...segments.flatMap((s) => finite(s.low)))
  const high = Math.max(...segments.flatMap((s) => finite(s.high)))
  const begin = segments[0]!.start
  const last = segments.at(-1)!
  const long = last.start + last.low.length * last.step - begin || 1
  const y = (v: number) =>
    (SIZE.height - 4 - ((v - low) / (high - low || 1)) * (SIZE.height - 8)).toFixed(1)
  const path = segments
    .map(({ start, step, low: lows, high: highs }) => {
      const x = (i: number) => (((start + (i + 0.5) * step - begin) / long) * SIZE.width).toFixed(1)
      const known = [...lows.keys()].filter(
        (i) => Number.isFinite(lows[i]) && Number.isFinite(highs[i]),
      )
      const over = known.map((i) => `${x(i)} ${y(highs[i]!)}`)
      const under = known.map((i) => `${x(i)} ${y(lows[i]!)}`).reverse()
      return known.length ? `M${[...over, ...under].join('L')}Z` : ''
    })
    .join('')
  return { path, low, high }
}
