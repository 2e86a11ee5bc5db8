import { useQuery } from '@tanstack/react-query'

import type { ColumnChoice, ImportPreview } from '../../api/files'
import { fetchView } from '../../api/view'
import { figure } from '../../ui/format'
import { fromSi } from '../../ui/units'

const WIDTH = 214
const HEIGHT = 42
const LATE = 1e9 // s: to the end, however long the run is

interface Props {
  column: ImportPreview['columns'][number]
  choice?: ColumnChoice
  /** A run whose channel is drawn under it. */
  run?: number | null
}

/** How a column goes over the rows; thick and pale under it the channel that it goes with. */
export function Sketch({ column, choice, run }: Props) {
  const sign = choice?.turned ? -1 : 1
  const middle = column.low.map((low, i) =>
    low == null || column.high[i] == null ? null : (sign * (low + column.high[i])) / 2,
  )
  const measured = useMeasured(choice, run ?? null)
  const known = [...middle, ...measured].filter((v) => v != null)
  if (!known.length) return null
  const [least, most] = [Math.min(...known), Math.max(...known)]
  const unit = choice?.take ? choice.unit : ''
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="block w-full"
        role="img"
        aria-label={`from ${short(least)} to ${short(most)} ${unit}`}
      >
        {measured.length > 0 && (
          <path
            d={drawn(measured, least, most)}
            fill="none"
            stroke="var(--ink-soft)"
            strokeOpacity=".35"
            strokeWidth="5"
          />
        )}
        <path
          d={drawn(middle, least, most)}
          fill="none"
          stroke={choice?.take === false ? 'var(--ink-soft)' : 'var(--curve-1)'}
          strokeWidth="1.5"
        />
      </svg>
      <figcaption className="figure text-note leading-3 text-soft">
        {short(least)} <span className="font-sans">to</span> {short(most)}{' '}
        <span className="font-sans">{unit}</span>
      </figcaption>
    </figure>
  )
}

/** A channel of a run in the unit of a column; nothing where there is none. */
function useMeasured(choice: ColumnChoice | undefined, run: number | null): (number | null)[] {
  const key = choice?.pairs_with ?? ''
  const view = useQuery({
    queryKey: ['view', run, key, 'sketch'],
    queryFn: ({ signal }) => fetchView(run!, key, [0, LATE], 2 * WIDTH, signal),
    enabled: run != null && key !== '',
    staleTime: Infinity,
  }).data
  if (run == null || !view) return []
  return view.flatMap((s) =>
    [...s.low].map((low, i) => {
      const value = fromSi((low + s.high[i]!) / 2, choice!.unit)
      return Number.isFinite(value) ? value : null
    }),
  )
}

/** Four figures are enough beside a sketch. */
function short(value: number): string {
  const rounded = Number(value.toPrecision(4))
  return figure(rounded, (String(Math.abs(rounded)).split('.')[1] ?? '').slice(0, 6).length)
}

function drawn(values: readonly (number | null)[], least: number, most: number): string {
  const y = (v: number) => HEIGHT - 3 - ((v - least) / (most - least || 1)) * (HEIGHT - 6)
  const x = (i: number) => (i / Math.max(values.length - 1, 1)) * WIDTH
  let pen = 'M'
  return values
    .map((v, i) => {
      if (v == null) {
        pen = 'M'
        return ''
      }
      const point = `${pen}${x(i).toFixed(1)} ${y(v).toFixed(1)}`
      pen = 'L'
      return point
    })
    .join('')
}
