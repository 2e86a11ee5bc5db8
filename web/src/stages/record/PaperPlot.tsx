import type { Setup } from '../../api/client'
import { duration, figure } from '../../ui/format'

type Paper = NonNullable<Setup['paper']>

const WIDTH = 204
const HEIGHT = 64

/** The force of a programme over its legs, played on paper: each leg as wide as the others. */
export function PaperPlot({ paper }: { paper: Paper }) {
  const { lowest, highest } = paper
  const span = (highest ?? 0) - (lowest ?? 0)
  return (
    <figure aria-label="The programme on paper" className="border-t border-rule py-1.5">
      {span > 0 && (
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" aria-hidden>
          <line
            x1="0"
            x2={WIDTH}
            y1={yOf(0, paper)}
            y2={yOf(0, paper)}
            stroke="var(--rule-strong)"
            strokeDasharray="2 3"
          />
          <path d={pathOf(paper)} fill="none" stroke="var(--petrol)" strokeWidth="1.5" />
        </svg>
      )}
      <figcaption className="text-small leading-4 text-soft">
        On paper: {paper.seconds == null ? 'as long as it takes' : <b>{duration(paper.seconds)}</b>}
        {paper.cycles > 0 && (
          <>
            , <span className="figure text-ink">{figure(paper.cycles, 0)}</span> cycles
          </>
        )}
        {span > 0 && (
          <>
            , <span className="figure text-ink">{figure((lowest ?? 0) / 1e3, 2)}</span> to{' '}
            <span className="figure text-ink">{figure((highest ?? 0) / 1e3, 2)}</span> kN
          </>
        )}
      </figcaption>
    </figure>
  )
}

const yOf = (force: number, { lowest, highest }: Paper): number =>
  4 + (HEIGHT - 8) * (1 - (force - (lowest ?? 0)) / ((highest ?? 0) - (lowest ?? 0) || 1))

function pathOf(paper: Paper): string {
  const each = WIDTH / paper.legs.length
  let force = 0
  const points: [number, number][] = [[0, yOf(0, paper)]]
  paper.legs.forEach((leg, i) => {
    const last = leg.outline.length - 1
    leg.outline.forEach((at, k) => points.push([(i + k / last) * each, yOf(at, paper)]))
    force = leg.end ?? force
    points.push([(i + 1) * each, yOf(force, paper)])
  })
  return points.map(([x, y], i) => `${i ? 'L' : 'M'}${x.toFixed(1)},${y.toFixed(1)}`).join('')
}
