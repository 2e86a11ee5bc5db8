import { figure } from '../../ui/format'
import { ticksOf } from './ticks'

interface Props {
  span: readonly [number, number]
  value: number | null
  lowest: number | null
  highest: number | null
  guards?: readonly number[]
  aim?: number | null
  label: string
}

const WIDTH = 300
const LINE = 30 // where the ruler's edge lies, from the top

/** A ruler with zero where it belongs: a bar to the value, flags at the peaks, thick ticks where
 * guards look, a triangle at what is wanted. */
export function Ruler({
  span: [low, high],
  value,
  lowest,
  highest,
  guards = [],
  aim,
  label,
}: Props) {
  const inside = (v: number) => Math.min(high, Math.max(low, v))
  const at = (v: number) => 8 + ((inside(v) - low) / (high - low || 1)) * (WIDTH - 16)
  const { long, step, decimals } = ticksOf(low, high)
  const zero = at(0)
  const beyond = value !== null && (value < low || value > high)
  return (
    <svg viewBox={`0 0 ${WIDTH} 52`} className="h-13 w-full" role="img" aria-label={label}>
      {value !== null && (
        <rect
          x={Math.min(zero, at(value))}
          y={LINE - 12}
          width={Math.max(1, Math.abs(at(value) - zero))}
          height="12"
          fill={beyond ? 'var(--signal)' : 'var(--petrol)'}
        />
      )}
      <path d={`M8 ${LINE}H${WIDTH - 8}`} stroke="var(--ink)" />
      {long.map((v) => (
        <g key={v}>
          <path d={`M${at(v)} ${LINE}v6`} stroke="var(--ink)" />
          <text x={at(v)} y={LINE + 18} textAnchor="middle" className="figure fill-ink text-note">
            {figure(v, decimals)}
          </text>
          {[1, 2, 3, 4].map(
            (i) =>
              v + (i * step) / 5 <= high && (
                <path key={i} d={`M${at(v + (i * step) / 5)} ${LINE}v3`} stroke="var(--ink)" />
              ),
          )}
        </g>
      ))}
      {guards.map((v) => (
        <path key={v} d={`M${at(v)} ${LINE - 14}v18`} stroke="var(--ink)" strokeWidth="3" />
      ))}
      {[lowest, highest].map(
        (v, i) =>
          v !== null && (
            <path
              key={i}
              d={`M${at(v)} ${LINE}V6h${i ? 8 : -8}l${i ? -2 : 2} 3.5l${i ? 2 : -2} 3.5h${i ? -8 : 8}`}
              fill="var(--sheet)"
              stroke="var(--petrol)"
            />
          ),
      )}
      {aim != null && (
        <path d={`M${at(aim)} ${LINE + 1}l5 8h-10z`} fill="var(--marking)" stroke="var(--ink)" />
      )}
    </svg>
  )
}
