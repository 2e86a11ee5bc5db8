import { useReading } from '../../live/LiveProvider'
import { readablesOf, type Readable } from '../../readable'
import { figure } from '../../ui/format'
import { fromSi } from '../../ui/units'
import type { Pane, PaneProps } from '../pane'

const SIZE = { width: 300, height: 220 }
const RADIUS = 78
const FITS = new Set(['strain', 'stress'])

export const mohr: Pane<Record<string, never>> = {
  title: 'Mohr’s circle',
  fits: ({ quantity }) => FITS.has(quantity),
  room: 2,
  proposes: (setup) => {
    const computed = readablesOf(setup).filter((c) => c.computed && FITS.has(c.quantity))
    return computed.length === 2 ? computed : []
  },
  lacks: (_, [first, second]) => {
    if (!first || !second)
      return 'Choose two computed channels: the first and the second principal strain, or stress.'
    if (first.quantity === second.quantity) return ''
    return `${first.name} is a ${first.quantity}, ${second.name} a ${second.quantity}: choose two of one quantity.`
  },
  options: {},
  Component: Mohr,
}

/** The circle of two principal values: across the normal one, upwards half the shear. */
function Mohr({ channels }: PaneProps<Record<string, never>>) {
  const [a, b] = channels as [Readable, Readable]
  const [one, other] = [useReading(a.key), useReading(b.key)]
  const values = [one?.value, other?.value].map((v) => (v === undefined ? NaN : fromSi(v, a.unit)))
  const [first, second] = [Math.max(...values), Math.min(...values)]
  const middle = (first + second) / 2
  const radius = (first - second) / 2
  const known = Number.isFinite(radius)
  const scale = radius > 0 ? RADIUS / radius : 0
  const centre = { x: SIZE.width / 2, y: SIZE.height / 2 }
  const zero = centre.x - middle * scale
  const show = (v: number) => figure(v, a.decimals)
  return (
    <section className="flex min-h-0 flex-1 flex-col" aria-label="Mohr’s circle">
      <p className="flex-none pt-1.5 pl-3 text-small leading-4">
        <b className="font-strong">Mohr’s circle</b>{' '}
        <span className="text-soft">
          of {a.name} and {b.name}, {a.unit}
        </span>
      </p>
      {known ? (
        <svg
          viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
          className="min-h-0 w-full flex-1"
          role="img"
          aria-label={`From ${show(second)} to ${show(first)} ${a.unit}, half the shear at most ${show(radius)}`}
        >
          <path d={`M16 ${centre.y}H${SIZE.width - 16}`} stroke="var(--ink)" />
          {zero > 16 && zero < SIZE.width - 16 && (
            <path d={`M${zero} 16V${SIZE.height - 16}`} stroke="var(--rule-strong)" />
          )}
          <circle
            cx={centre.x}
            cy={centre.y}
            r={RADIUS}
            fill="var(--petrol-wash)"
            stroke="var(--petrol)"
            strokeWidth="2"
          />
          {(
            [
              [centre.x + RADIUS + 4, 'start', first],
              [centre.x - RADIUS - 4, 'end', second],
            ] as const
          ).map(([x, anchor, v]) => (
            <text
              key={anchor}
              x={x}
              y={centre.y - 5}
              textAnchor={anchor}
              className="figure fill-ink text-small"
            >
              {show(v)}
            </text>
          ))}
          <text
            x={centre.x}
            y={centre.y - RADIUS - 6}
            textAnchor="middle"
            className="figure fill-ink text-small"
          >
            {show(radius)}
          </text>
        </svg>
      ) : (
        <p className="m-auto text-soft">No reading.</p>
      )}
    </section>
  )
}
