import { figure } from '../../../ui/format'

interface Props {
  /** Name, colour, strain, and angle from grid a in rad. */
  grids: (readonly [string, string, number, number])[]
  first: number
  second: number
  angle: number
}

const SIZE = { width: 420, height: 300 }
const RADIUS = 110
const MICRO = 1e6

/** Strain across, half the shear down, so that angles turn as on the part. */
export function MohrCircle({ grids, first, second, angle }: Props) {
  const middle = (first + second) / 2
  const radius = (first - second) / 2
  const known = Number.isFinite(radius) && radius > 0
  const scale = known ? RADIUS / radius : 1
  const x = (strain: number) => SIZE.width / 2 + (strain - middle) * scale
  const centre = { x: SIZE.width / 2, y: SIZE.height / 2 + 6 }
  const zero = x(0)
  return (
    <section className="flex min-h-0 flex-col border-l border-rule" aria-label="Mohr's circle">
      <p className="pt-1.5 pl-3 text-small leading-4">
        <b className="font-strong">Mohr&apos;s circle</b>{' '}
        <span className="text-soft">strain, µm/m; shear downwards</span>
      </p>
      {known && (
        <svg
          viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
          className="min-h-0 w-full flex-1"
          role="img"
          aria-label={`First principal strain ${figure(first * MICRO, 0)}, second ${figure(second * MICRO, 0)} µm/m`}
        >
          <path d={`M20 ${centre.y}H${SIZE.width - 20}`} stroke="var(--ink)" />
          {zero > 20 && zero < SIZE.width - 20 && (
            <path d={`M${zero} 20V${SIZE.height - 16}`} stroke="var(--rule-strong)" />
          )}
          <circle
            cx={centre.x}
            cy={centre.y}
            r={RADIUS}
            fill="var(--well)"
            fillOpacity="0.6"
            stroke="var(--ink)"
            strokeWidth="1.6"
          />
          {(Number.isFinite(angle) ? grids : []).map(([name, colour, strain, turned]) => {
            const along = (strain - middle) * scale
            const side = Math.sqrt(Math.max(0, RADIUS ** 2 - along ** 2))
            const y = centre.y + side * sideOf(turned, angle)
            return (
              <g key={name}>
                <path
                  d={`M${centre.x} ${centre.y}L${centre.x + along} ${y}`}
                  stroke={`var(${colour})`}
                  strokeWidth="1.4"
                />
                <circle
                  cx={centre.x + along}
                  cy={y}
                  r="5"
                  fill="var(--sheet)"
                  stroke={`var(${colour})`}
                  strokeWidth="2"
                />
                <text
                  x={centre.x + along + (along < 0 ? -9 : 9)}
                  y={y + (y < centre.y ? -6 : 14)}
                  fontSize="12"
                  textAnchor={along < 0 ? 'end' : 'start'}
                >
                  <tspan fontWeight="680" style={{ fill: `var(${colour})` }}>
                    {name}
                  </tspan>{' '}
                  <tspan className="n">{figure(strain * MICRO, 0)}</tspan>
                </text>
              </g>
            )
          })}
          {(
            [
              ['ε1', first, '--curve-4', 9],
              ['ε2', second, '--curve-5', -9],
            ] as const
          ).map(([name, strain, colour, off]) => (
            <g key={name}>
              <circle cx={x(strain)} cy={centre.y} r="5" fill={`var(${colour})`} />
              <text
                x={x(strain) + off}
                y={centre.y - 8}
                fontSize="12"
                textAnchor={off > 0 ? 'start' : 'end'}
              >
                <tspan fontWeight="680" style={{ fill: `var(${colour})` }}>
                  {name}
                </tspan>{' '}
                <tspan className="n">{figure(strain * MICRO, 0)}</tspan>
              </text>
            </g>
          ))}
        </svg>
      )}
    </section>
  )
}

/** Below or above the axis: a grid lies at twice its angle from the first principal direction. */
const sideOf = (turned: number, angle: number): number =>
  Math.sin(2 * (angle - turned)) >= 0 ? 1 : -1
