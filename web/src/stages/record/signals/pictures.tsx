/** Small pictures of a channel's signal, to be compared from row to row. */

type Curve = readonly (number | null)[]

const [WIDTH, HEIGHT] = [180, 36]
const DECADES = 4

interface TimeProps {
  low: Curve
  high: Curve
  /** Half of what the picture spans. */
  half: number
  tone: string
}

/** What the samples covered, part by part; clipped parts reach to the edge. */
export function TimePicture({ low, high, half, tone }: TimeProps) {
  const y = (v: number | null, edge: number) =>
    v === null ? edge : 18 - Math.max(-17, Math.min(17, (v / (half || 1)) * 17))
  const x = (i: number) => (i / Math.max(1, low.length - 1)) * 80
  const upper = high.map((v, i) => `${x(i)},${y(v, 0) - 0.6}`)
  const lower = low.map((v, i) => `${x(i)},${y(v, 36) + 0.6}`).reverse()
  return (
    <svg viewBox="0 0 80 36" preserveAspectRatio="none" className="h-9 w-20" aria-hidden>
      <polygon points={[...upper, ...lower].join(' ')} fill={tone} />
    </svg>
  )
}

interface SpectrumProps {
  amplitude: Curve
  /** What the top of the picture is; it reaches four decades down. */
  top: number
  hum: readonly { hz: number; value: number }[]
  rateHz: number
  tone: string
}

/** Amplitudes by frequency, with what is hum marked. */
export function SpectrumPicture({ amplitude, top, hum, rateHz, tone }: SpectrumProps) {
  const y = (v: number | null) => {
    const decades = v && v > 0 ? Math.log10(v / top) : -DECADES
    return Math.min(HEIGHT, Math.max(1, (-decades / DECADES) * HEIGHT))
  }
  const x = (i: number) => (i / Math.max(1, amplitude.length - 1)) * WIDTH
  const line = amplitude.map((v, i) => `${x(i).toFixed(1)},${y(v).toFixed(1)}`).join(' ')
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      preserveAspectRatio="none"
      className="h-9 w-45 border-b border-l border-ink"
      aria-hidden
    >
      <polygon points={`0,${HEIGHT} ${line} ${WIDTH},${HEIGHT}`} fill="var(--well)" />
      <polyline
        points={line}
        fill="none"
        stroke={tone}
        strokeWidth="1.2"
        vectorEffect="non-scaling-stroke"
      />
      {hum.map(({ hz, value }) => (
        <circle key={hz} cx={(hz / (rateHz / 2)) * WIDTH} cy={y(value)} r="2.2" fill={tone} />
      ))}
    </svg>
  )
}

/** Bits of the converter that the signal takes, those of noise darker. */
export function Bits({
  level,
  noise,
  blocked,
}: {
  level: number
  noise: number
  blocked: boolean
}) {
  return (
    <svg viewBox="0 0 72 10" className="h-2.5 w-18" aria-hidden>
      {Array.from({ length: 24 }, (_, i) => (
        <rect
          key={i}
          x={i * 3}
          y="0"
          width="2"
          height="10"
          fill={
            blocked
              ? 'var(--signal)'
              : i >= 24 - noise
                ? 'var(--rule-strong)'
                : i >= 24 - level
                  ? 'var(--petrol)'
                  : 'var(--well)'
          }
        />
      ))}
    </svg>
  )
}
