import { figure } from '../../../ui/format'
import { spanFromSi } from '../../../ui/units'
import type { Details } from '../kind'

const FIELD = 30
const LEFT = 54
const BOTTOM = 30
const SHADES = [0.14, 0.32, 0.52, 0.74, 1] as const

/** From light to dark by the power of ten of the share of all cycles. */
const shade = (count: number, most: number): number =>
  SHADES[Math.max(0, Math.min(4, 4 + Math.floor(Math.log10(count / most) * 2)))]!

const words = (count: number): string => {
  if (count === 0.5) return '½'
  return count >= 1000
    ? `${figure(count / 1000, 0)}k`
    : figure(count, count % 1 && count < 100 ? 1 : 0)
}

/** Counted cycles: ranges upwards, means across; empty fields stay empty. */
export function Matrix({ details: d }: { details: Details<'cycles'> }) {
  const rows = d.counts.length
  const columns = d.counts[0]?.length ?? 0
  const most = Math.max(...d.counts.flat())
  const width = spanFromSi(d.width, d.unit)
  const lowest = spanFromSi(d.lowest_mean, d.unit)
  const decimals = width < 1 ? 2 : 0
  return (
    <section className="flex min-h-0 flex-col" aria-label="Range and mean of cycles">
      <p className="pt-1.5 pl-2 text-small leading-4">
        <b className="font-strong">Range</b> <span className="text-soft">{d.unit}</span>
      </p>
      <svg
        viewBox={`0 0 ${LEFT + columns * FIELD + 8} ${rows * FIELD + BOTTOM + 6}`}
        className="min-h-0 w-full flex-1"
        role="img"
        aria-label={`Cycles of ${d.channel} by range and mean`}
      >
        {d.counts.flatMap((row, i) =>
          row.map((count, j) => {
            const [x, y] = [LEFT + j * FIELD, 4 + (rows - 1 - i) * FIELD]
            const strength = count ? shade(count, most) : 0
            return (
              <g key={`${i}-${j}`}>
                <rect x={x} y={y} width={FIELD - 1} height={FIELD - 1} fill="var(--well)" />
                {count > 0 && (
                  <>
                    <rect
                      x={x}
                      y={y}
                      width={FIELD - 1}
                      height={FIELD - 1}
                      fill="var(--petrol)"
                      fillOpacity={strength}
                    />
                    <text
                      x={x + FIELD / 2}
                      y={y + FIELD / 2 + 4}
                      fontSize="11"
                      textAnchor="middle"
                      className="n"
                      style={{ fill: strength > 0.5 ? 'var(--sheet)' : 'var(--ink)' }}
                    >
                      {words(count)}
                    </text>
                  </>
                )}
              </g>
            )
          }),
        )}
        {Array.from({ length: rows + 1 }, (_, i) => i)
          .filter((i) => i % Math.ceil(rows / 8) === 0)
          .map((i) => (
            <text
              key={i}
              x={LEFT - 6}
              y={8 + (rows - i) * FIELD}
              fontSize="11"
              textAnchor="end"
              className="n"
            >
              {figure(i * width, decimals)}
            </text>
          ))}
        {Array.from({ length: columns + 1 }, (_, j) => j)
          .filter((j) => j % Math.ceil(columns / 6) === 0)
          .map((j) => (
            <text
              key={j}
              x={LEFT + j * FIELD}
              y={rows * FIELD + 18}
              fontSize="11"
              textAnchor="middle"
              className="n"
            >
              {figure(lowest + j * width, decimals)}
            </text>
          ))}
        <text
          x={LEFT + columns * FIELD}
          y={rows * FIELD + BOTTOM + 2}
          fontSize="12"
          textAnchor="end"
        >
          <tspan fontWeight="620">Mean</tspan> {d.unit}
        </text>
      </svg>
    </section>
  )
}
