import type { Instrument } from '../api/library'
import { figure } from '../ui/format'

const WIDE = 316
const HIGH = 92
const LEFT = 52
const DAY = 86_400_000

/** Rated output over the years: steady, drifting, or with a step that tells of an overload. */
export function History({ instrument }: { instrument: Instrument }) {
  const known = instrument.certificates.flatMap((c) =>
    c.rated_output === null ? [] : [[c.calibrated_on, c.rated_output * 1e3] as const],
  )
  if (known.length < 2) return null
  const dates = known.map(([d]) => Date.parse(d))
  const values = known.map(([, v]) => v)
  const due = instrument.due_on ? Date.parse(instrument.due_on) : dates.at(-1)!
  const [from, to] = [dates[0]! - 60 * DAY, Math.max(due, dates.at(-1)!) + 60 * DAY]
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const room = Math.max((high - low) * 0.25, 1e-4)
  const x = (t: number) => LEFT + ((t - from) / (to - from)) * (WIDE - LEFT - 10)
  const y = (v: number) => 8 + ((high + room - v) / (high - low + 2 * room)) * (HIGH - 30)
  const rise = instrument.rise_per_year ?? 0
  const years = [...new Set(known.map(([d]) => d.slice(0, 4)))]
  return (
    <figure className="my-1">
      <figcaption className="text-small">
        <b className="font-strong">{known.length} calibrations</b>{' '}
        <span className="text-soft">
          {rise < 0 ? 'fall' : 'rise'}{' '}
          <span className="figure">{figure(Math.abs(rise) * 100, 3)}</span> % a year
        </span>
      </figcaption>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        className="block w-full"
        role="img"
        aria-label={`Rated output of ${instrument.serial} over the years, mV/V`}
      >
        <path
          d={`M${LEFT} 4V${HIGH - 20}H${WIDE - 4}`}
          fill="none"
          stroke="var(--ink)"
          strokeWidth="1"
        />
        {[low, high].map((v) => (
          <text key={v} x={LEFT - 6} y={y(v) + 4} fontSize="11" textAnchor="end" className="n">
            {v.toFixed(4)}
          </text>
        ))}
        {years.map((year) => (
          <text
            key={year}
            x={x(Date.parse(`${year}-01-01`) < from ? from : Date.parse(`${year}-01-01`))}
            y={HIGH - 6}
            fontSize="11"
            textAnchor="middle"
            className="n"
          >
            {year}
          </text>
        ))}
        {instrument.due_on && (
          <>
            <path
              d={`M${x(due)} 4V${HIGH - 20}`}
              stroke="var(--ink-soft)"
              strokeDasharray="2 3"
              fill="none"
            />
            <text
              x={x(due) - 4}
              y={14}
              fontSize="11"
              textAnchor="end"
              style={{ fill: 'var(--ink-soft)' }}
            >
              due
            </text>
          </>
        )}
        <polyline
          points={known.map(([d, v]) => `${x(Date.parse(d))},${y(v)}`).join(' ')}
          fill="none"
          stroke="var(--curve-1)"
          strokeWidth="1.5"
        />
        {known.map(([d, v], i) => (
          <circle
            key={d}
            cx={x(Date.parse(d))}
            cy={y(v)}
            r="4"
            fill={i === known.length - 1 ? 'var(--marking)' : 'var(--sheet)'}
            stroke="var(--curve-1)"
            strokeWidth="1.5"
          />
        ))}
      </svg>
    </figure>
  )
}
