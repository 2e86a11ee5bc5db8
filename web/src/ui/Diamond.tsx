/** The bridge diamond: sides are arms 1 to 4 counter-clockwise from the upper left, thick where strained. */

export type Inside = 'none' | 'dot' | 'bar' | 'tick'

interface Props {
  size: number
  active: readonly number[]
  inside?: Inside
  /** Arms drawn broken, in signal red with the middle missing. */
  broken?: readonly number[]
}

type Point = readonly [number, number]

const thickness = (size: number, thick: boolean): number => {
  if (size <= 16) return thick ? 2.1 : 1
  if (size <= 24) return thick ? 2.8 : 1.2
  return size * (thick ? 0.085 : 0.016)
}

/** Where two neighbouring sides of thickness p and q meet on the inside, per corner. */
function innerCorner(corner: number, p: number, q: number, reach: number): Point {
  const sum = (p + q) * Math.SQRT1_2
  const difference = (p - q) * Math.SQRT1_2
  const corners: Point[] = [
    [difference, -reach + sum],
    [reach - sum, difference],
    [-difference, reach - sum],
    [-reach + sum, -difference],
  ]
  return corners[corner]!
}

const between = (a: Point, b: Point, share: number): Point => [
  a[0] + (b[0] - a[0]) * share,
  a[1] + (b[1] - a[1]) * share,
]

/** The four mitred sides as point lists, each from `from` to `to` of its length. */
function sides(size: number, thick: readonly boolean[]) {
  const reach = (size / 2) * 0.97
  const t = thick.map((on) => thickness(size, on))
  const outer: Point[] = [
    [0, -reach],
    [reach, 0],
    [0, reach],
    [-reach, 0],
  ]
  const inner = [0, 1, 2, 3].map((i) => innerCorner(i, t[i]!, t[(i + 1) % 4]!, reach))
  // Side i runs from corner i-1 to corner i; corner 0 is the top.
  return [0, 1, 2, 3].map((i) => (from: number, to: number) => {
    const a = (i + 3) % 4
    const points = [
      between(outer[a]!, outer[i]!, from),
      between(outer[a]!, outer[i]!, to),
      between(inner[a]!, inner[i]!, to),
      between(inner[a]!, inner[i]!, from),
    ]
    return points
      .map(([x, y]) => `${(x + size / 2).toFixed(2)},${(y + size / 2).toFixed(2)}`)
      .join(' ')
  })
}

/** The sign of an input: a bridge's diamond, or the circle of whatever is none. */
export function InputSign({ signal, ...rest }: Props & { signal: string }) {
  return signal === 'bridge ratio' ? <Diamond {...rest} /> : <Circle {...rest} />
}

/** Of what no input measures: a dashed circle. */
export function ComputedSign({ size }: { size: number }) {
  return (
    <svg width={size} height={size} className="flex-none" aria-hidden>
      <circle
        cx={size / 2}
        cy={size / 2}
        r={size / 2 - 1.5}
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.6"
        strokeDasharray="3.2 2.4"
      />
    </svg>
  )
}

/** Not a bridge: the same marks inside; broken, it is signal red and parted. */
function Circle({ size, inside = 'none', broken = [] }: Props) {
  const width = thickness(size, true)
  const length = 2 * Math.PI * (size / 2 - width)
  return (
    <svg
      width={size}
      height={size}
      viewBox={`0 0 ${size} ${size}`}
      className="flex-none"
      aria-hidden
    >
      <circle
        cx={size / 2}
        cy={size / 2}
        r={size / 2 - width}
        fill="none"
        stroke={broken.length ? 'var(--signal)' : 'var(--ink)'}
        strokeWidth={width}
        strokeDasharray={broken.length ? `${length * 0.35} ${length * 0.15}` : undefined}
      />
      <InsideMark size={size} kind={inside} />
    </svg>
  )
}

/** The arms in the order in which sides are drawn, clockwise from the upper left. */
const ARMS = [1, 4, 3, 2]

export function Diamond({ size, active, inside = 'none', broken = [] }: Props) {
  const draw = sides(
    size,
    ARMS.map((arm) => active.includes(arm)),
  )
  const gap = size <= 16 ? 0.17 : 0.13
  return (
    <svg
      width={size}
      height={size}
      viewBox={`0 0 ${size} ${size}`}
      className="flex-none"
      aria-hidden
    >
      {draw.map((side, i) =>
        broken.includes(ARMS[i]!) ? (
          <g key={i} fill="var(--signal)">
            <polygon points={side(0, 0.5 - gap)} />
            <polygon points={side(0.5 + gap, 1)} />
          </g>
        ) : (
          <polygon key={i} points={side(0, 1)} fill="var(--ink)" />
        ),
      )}
      <InsideMark size={size} kind={inside} />
    </svg>
  )
}

function InsideMark({ size, kind }: { size: number; kind: Inside }) {
  const c = size / 2
  const small = size <= 16
  if (kind === 'none') return null
  if (kind === 'dot') return <circle cx={c} cy={c} r={small ? 1.5 : size * 0.1} fill="var(--ink)" />
  const width = small ? 4 : size * 0.33
  const height = small ? 1.3 : size * 0.075
  const y = c + (kind === 'tick' ? size * 0.06 : 0)
  const stem = small ? 2.2 : size * 0.16
  return (
    <g fill="var(--ink)">
      <rect x={c - width / 2} y={y - height / 2} width={width} height={height} />
      {kind === 'tick' && (
        <rect x={c - height / 2} y={y - height / 2 - stem} width={height} height={stem} />
      )}
    </g>
  )
}
