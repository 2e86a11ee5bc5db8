import type { Calibration } from '../../../api/calibrations'
import type { Channel } from '../../../api/client'
import { fromSi } from '../../../ui/units'
import { largestOf, residuals, type Residual } from './figures'

const [WIDTH, HEIGHT] = [620, 470]
const AREA = { left: 54, right: 84, top: 40, bottom: 44 }
const LABEL = 13 // px, that the name of a band needs
const LEAST = 0.02 // %, that the plot shows at least

/** The residuals of all series over the bands of the classes. */
export function ResidualPlot({
  calibration,
  channel,
}: {
  calibration: Calibration
  channel: Channel
}) {
  const { evaluation, problem } = calibration
  if (!evaluation)
    return (
      <section className="col p-4 text-small text-soft" aria-label="Residuals">
        <p className="m-auto max-w-[42ch] text-center">{problem}</p>
      </section>
    )
  const { rising, falling } = residuals(calibration)
  const largest = fromSi(largestOf(calibration), channel.unit)
  const classed = evaluation.classification
  const bands = (classed?.bands ?? []).map((b) => [b.name, b.limit * 100] as const)
  const shown = [...rising, ...falling].flat().map((r) => Math.abs(r.value))
  const wanted = Math.max(LEAST, ...shown) * 1.25
  const most = Math.max(wanted, bands.find(([, limit]) => limit >= wanted / 1.25)?.[1] ?? 0) * 1.1
  const x = (load: number) => AREA.left + (load / largest) * (WIDTH - AREA.left - AREA.right)
  const y = (value: number) =>
    AREA.top + ((most - value) / (2 * most)) * (HEIGHT - AREA.top - AREA.bottom)
  const at = (r: Residual): [number, number] => [
    x(Math.abs(fromSi(r.load, channel.unit))),
    y(r.value),
  ]
  const from = classed ? x(Math.abs(fromSi(classed.from_load, channel.unit))) : AREA.left
  return (
    <section className="col min-w-0 p-2" aria-label="Residuals">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        preserveAspectRatio="xMidYMid meet"
        role="img"
        aria-label={`Residuals in per cent of the load, ${rising.length} rising series`}
        className="h-full w-full text-note"
      >
        {bands
          .filter(([, limit]) => limit <= most && y(0) - y(limit) > LABEL)
          .reverse()
          .map(([name, limit]) => (
            <g key={name}>
              <rect
                x={from}
                width={WIDTH - AREA.right - from}
                y={y(limit)}
                height={y(-limit) - y(limit)}
                className="fill-petrol-wash opacity-60"
              />
              {[limit, -limit].map((v) => (
                <line
                  key={v}
                  x1={from}
                  x2={WIDTH - AREA.right}
                  y1={y(v)}
                  y2={y(v)}
                  className="stroke-petrol"
                  strokeDasharray="5 3"
                  strokeWidth={0.8}
                />
              ))}
              <text x={WIDTH - AREA.right + 6} y={y(limit) + 4} className="fill-ink font-strong">
                class {name}
              </text>
            </g>
          ))}
        <Axes {...{ largest, most, x, y, unit: channel.unit }} />
        {falling.map((s, i) => (
          <Series key={`f${i}`} points={s.map(at)} falling />
        ))}
        {rising.map((s, i) => (
          <Series key={`r${i}`} points={s.map(at)} filled={i % 2 === 0} />
        ))}
        <text x={AREA.left} y={16} className="fill-ink font-strong">
          Residual <tspan className="fill-soft font-normal">% of the load</tspan>
        </text>
        <text x={AREA.left + 170} y={16} style={{ fill: 'var(--curve-1)' }} className="font-strong">
          ● rising
        </text>
        {falling.some((s) => s.length > 0) && (
          <text
            x={AREA.left + 236}
            y={16}
            style={{ fill: 'var(--curve-2)' }}
            className="font-strong"
          >
            □ falling
          </text>
        )}
        {classed?.name && (
          <text x={WIDTH - AREA.right} y={16} textAnchor="end" className="fill-soft">
            class holds from {+fromSi(classed.from_load, channel.unit).toPrecision(3)}{' '}
            {channel.unit} up
          </text>
        )}
      </svg>
    </section>
  )
}

function Series({
  points,
  falling,
  filled,
}: {
  points: [number, number][]
  falling?: boolean
  filled?: boolean
}) {
  const colour = falling ? 'var(--curve-2)' : 'var(--curve-1)'
  const path = points.map(([px, py]) => `${px},${py}`).join(' ')
  return (
    <g style={{ stroke: colour }}>
      <polyline
        points={path}
        fill="none"
        strokeWidth={1.4}
        strokeDasharray={falling ? '5 4' : undefined}
      />
      {points.map(([px, py], i) =>
        falling ? (
          <rect
            key={i}
            x={px - 3.5}
            y={py - 3.5}
            width={7}
            height={7}
            className="fill-sheet"
            strokeWidth={1.4}
          />
        ) : (
          <circle
            key={i}
            cx={px}
            cy={py}
            r={4}
            style={{ fill: filled ? colour : 'var(--sheet)' }}
            strokeWidth={1.4}
          />
        ),
      )}
    </g>
  )
}

interface AxesProps {
  largest: number
  most: number
  unit: string
  x: (load: number) => number
  y: (value: number) => number
}

function Axes({ largest, most, unit, x, y }: AxesProps) {
  const loads = [0, 0.2, 0.4, 0.6, 0.8, 1].map((s) => s * largest)
  const step = stepOf(most)
  const count = Math.floor(most / step)
  const values = Array.from({ length: 2 * count + 1 }, (_, i) => (i - count) * step)
  return (
    <g className="stroke-ink" strokeWidth={1}>
      <line x1={x(0)} x2={x(0)} y1={y(most)} y2={y(-most)} />
      <line x1={x(0)} x2={x(largest)} y1={y(-most)} y2={y(-most)} />
      <line x1={x(0)} x2={x(largest)} y1={y(0)} y2={y(0)} className="stroke-rule-strong" />
      {values.map((v) => (
        <text
          key={v}
          x={x(0) - 8}
          y={y(v) + 4}
          textAnchor="end"
          stroke="none"
          className="fill-ink figure"
        >
          {v.toFixed(Math.max(0, Math.ceil(-Math.log10(step)))).replace('-', '−')}
        </text>
      ))}
      {loads.map((l) => (
        <text
          key={l}
          x={x(l)}
          y={y(-most) + 16}
          textAnchor="middle"
          stroke="none"
          className="fill-ink figure"
        >
          {+l.toPrecision(3)}
        </text>
      ))}
      <text
        x={x(largest)}
        y={y(-most) + 34}
        textAnchor="end"
        stroke="none"
        className="fill-ink font-strong"
      >
        Load <tspan className="fill-soft font-normal">{unit}</tspan>
      </text>
    </g>
  )
}

/** A step of 1, 2 or 5 that divides the axis into some four parts each way. */
function stepOf(most: number): number {
  const rough = most / 3
  const power = 10 ** Math.floor(Math.log10(rough))
  return [1, 2, 5, 10].map((m) => m * power).find((s) => s >= rough)!
}
