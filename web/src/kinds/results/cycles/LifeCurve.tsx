import { figure } from '../../../ui/format'
import type { Details } from '../kind'

const BOX = { left: 54, top: 10, width: 330, height: 240 }
const DECADES = { from: 0, to: 9 } // of cycles

const superscript = (n: number) =>
  [...String(n)].map((c) => '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(c)] ?? '⁻').join('')

/** The S-N line, how many cycles each range had, and each range's share of the damage. */
export function LifeCurve({ details: d }: { details: Details<'cycles'> }) {
  const rows = d.counts.map((row, i) => ({
    stress: ((i + 0.5) * d.width * d.stress_by_unit) / 2 / 1e6, // amplitude, MPa
    count: row.reduce((a, b) => a + b, 0),
    damage: (d.damage[i] ?? []).reduce((a, b) => a + b, 0),
  }))
  const most = rows.at(-1)!.stress * 2
  const line = (cycles: number) => (d.curve_strength_pa / 1e6) * (2 * cycles) ** d.curve_exponent
  const highest = 10 ** Math.ceil(Math.log10(Math.max(most, line(1))))
  const least = 10 ** Math.floor(Math.log10(Math.min(rows[0]!.stress, line(1e9))))
  const lowest = Math.max(least, highest / 1e4)
  const x = (cycles: number) =>
    BOX.left + (Math.log10(cycles) / (DECADES.to - DECADES.from)) * BOX.width
  const share = Math.log10(highest / lowest)
  const y = (stress: number) =>
    BOX.top + (1 - Math.log10(Math.max(stress, lowest) / lowest) / share) * BOX.height
  const worst = Math.max(...rows.map((r) => r.damage)) || 1
  return (
    <section className="flex min-h-0 flex-col border-l border-rule" aria-label="Cycles and life">
      <p className="pt-1.5 pl-2 text-small leading-4">
        <b className="font-strong">Stress amplitude</b> <span className="text-soft">MPa</span>
      </p>
      <svg
        viewBox="0 0 400 296"
        className="min-h-0 w-full flex-1"
        role="img"
        aria-label="Counted cycles, share of damage and the stress-life line"
      >
        {Array.from({ length: DECADES.to + 1 }, (_, i) => i).map((i) => (
          <g key={i}>
            <path d={`M${x(10 ** i)} ${BOX.top}v${BOX.height}`} stroke="var(--grid)" />
            {i % 3 === 0 && (
              <text
                x={x(10 ** i)}
                y={BOX.top + BOX.height + 15}
                fontSize="11"
                textAnchor="middle"
                className="n"
              >
                10{superscript(i)}
              </text>
            )}
          </g>
        ))}
        {Array.from({ length: Math.round(share) + 1 }, (_, i) => lowest * 10 ** i).map((s) => (
          <g key={s}>
            <path d={`M${BOX.left} ${y(s)}h${BOX.width}`} stroke="var(--grid)" />
            <text x={BOX.left - 6} y={y(s) + 4} fontSize="11" textAnchor="end" className="n">
              {figure(s, 0)}
            </text>
          </g>
        ))}
        {rows.map((r, i) => {
          const height = Math.max(
            2,
            y(r.stress * (i / (i + 0.5))) - y(r.stress * ((i + 1) / (i + 0.5))) - 1,
          )
          const top = y(r.stress * ((i + 1) / (i + 0.5)))
          const bar = { y: top, height: Math.min(height, 14) }
          return (
            <g key={i}>
              {r.count >= 1 && (
                <rect
                  x={BOX.left}
                  width={x(r.count) - BOX.left}
                  {...bar}
                  fill="var(--petrol)"
                  fillOpacity="0.3"
                />
              )}
              {r.damage > 0 && (
                <rect
                  x={BOX.left + BOX.width - (r.damage / worst) * 70}
                  width={(r.damage / worst) * 70}
                  {...bar}
                  fill="var(--curve-2)"
                  fillOpacity="0.75"
                />
              )}
            </g>
          )
        })}
        <path
          d={`M${x(1)} ${y(line(1))}L${x(1e9)} ${y(line(1e9))}`}
          stroke="var(--ink)"
          strokeWidth="1.8"
        />
        <path
          d={`M${BOX.left} ${BOX.top}v${BOX.height}h${BOX.width}`}
          fill="none"
          stroke="var(--ink)"
        />
        <text
          x={BOX.left + 8}
          y={BOX.top + BOX.height - 8}
          fontSize="12"
          fontWeight="640"
          style={{ fill: 'var(--petrol)' }}
        >
          counted cycles
        </text>
        <text
          x={BOX.left + BOX.width - 4}
          y={BOX.top + 14}
          fontSize="12"
          fontWeight="640"
          textAnchor="end"
          style={{ fill: 'var(--curve-2)' }}
        >
          share of damage
        </text>
        <text
          x={BOX.left + BOX.width}
          y={BOX.top + BOX.height + 32}
          fontSize="12"
          textAnchor="end"
          fontWeight="620"
        >
          Cycles
        </text>
      </svg>
    </section>
  )
}
