import { useCallback, useMemo, useRef } from 'react'
import type uPlot from 'uplot'

import { useLive } from '../../live/LiveProvider'
import { Plot } from '../../plots/Plot'
import { readablesOf, type Readable } from '../../readable'
import { token } from '../../ui/theme'
import { AxisEnds } from '../AxisEnds'
import { cycleStarts, paired } from '../cycles'
import { endsOf, leastSpan, ranged, withEnds } from '../ends'
import type { Pane, PaneProps } from '../pane'
import { shown, traceOf } from '../traces'

/** `cycles`: how many of the newest are drawn, none: everything; `first`: the first one too, dashed. */
type Options = { cycles: number | null; first: boolean }

/** Quantities that are drawn over each other where nobody chose channels: x, then y. */
const SUITS = [
  ['extension', 'force'],
  ['displacement', 'force'],
] as const

export const xy: Pane<Options> = {
  title: 'One channel over another',
  fits: () => true,
  room: 2,
  proposes: (setup) => {
    const all = readablesOf(setup)
    const pairs = SUITS.map((pair) => pair.flatMap((q) => all.find((c) => c.quantity === q) ?? []))
    return pairs.find((pair) => pair.length === 2) ?? []
  },
  lacks: (_, channels) =>
    channels.length === 2 ? '' : 'Choose two channels: the first goes across, the second up.',
  options: { cycles: null, first: true },
  fields: ({ cycles }) => [
    { name: 'cycles', label: 'Newest cycles', unit: '', decimals: 0, mayBeEmpty: true },
    ...(cycles ? [{ name: 'first', label: 'First cycle, dashed', isSwitch: true as const }] : []),
  ],
  Component: XY,
}

/** Everything of a pair, or some cycles of it: those of the channel that goes up. */
function partsOf(xs: number[], ys: number[], { cycles, first }: Options): [number, number][] {
  const starts = cycles ? cycleStarts(ys) : []
  if (!cycles || starts.length < 2) return [[0, xs.length]]
  const newest: [number, number] = [starts[Math.max(0, starts.length - cycles - 1)]!, xs.length]
  return first ? [newest, [starts[0]!, starts[1]! + 1]] : [newest]
}

/** One channel over another. */
function XY({ channels, options, change }: PaneProps<Options>) {
  const [x, y] = channels as [Readable, Readable]
  const { cycles, first } = options
  const live = useLive()
  const subscribe = useCallback((f: () => void) => live.subscribe(f, x.key, y.key), [live, x, y])
  // Made once a redraw: the plot asks for its ranges right after.
  const made = useRef<(number | null)[][]>([[], []])
  const ranges = useRef<[number, number]>([0, 1])
  const data = useCallback((): uPlot.AlignedData => {
    const span = live.wholeRun.size ? 'whole' : 'rolling'
    const [of, over] = [traceOf(live, x.key, span), traceOf(live, y.key, span)]
    const [xs, ys] = of && over ? paired(of, over) : [[], []]
    const parts = partsOf(xs, ys, { cycles, first })
    const across: (number | null)[] = []
    const up: (number | null)[][] = parts.map(() => [])
    parts.forEach(([from, to], part) => {
      for (let i = from; i < to; i++) {
        across.push(shown(xs[i]!, x.unit))
        up.forEach((column, j) => column.push(j === part ? shown(ys[i]!, y.unit) : null))
      }
    })
    if (parts.length === 1) up.push(across.map(() => null))
    made.current = [across, ...up]
    return made.current as uPlot.AlignedData
  }, [live, x, y, cycles, first])
  const curves = useMemo(
    () => [
      { name: '', colour: '--curve-1' },
      { name: '', colour: '--curve-1', dash: [4, 3], width: 1 },
    ],
    [],
  )
  const [across, up] = [endsOf(options, 'x'), endsOf(options, 'y')]
  return (
    <div className="relative flex min-h-0 flex-1">
      <Plot
        key={x.key + y.key + x.unit + y.unit}
        curves={curves}
        data={data}
        subscribe={subscribe}
        unordered
        view={`${across.join()} ${up.join()}`}
        xRange={() => ranged(across, spanned([made.current[0]!], leastSpan(x)))}
        xName={x.name}
        xUnit={x.unit}
        yName={y.name}
        yUnit={y.unit}
        yRange={() => {
          ranges.current = ranged(up, spanned(made.current.slice(1), leastSpan(y)))
          return ranges.current
        }}
        label={`${y.name} over ${x.name}`}
        draw={drawNewest}
      />
      <AxisEnds
        of={y.name}
        ends={up}
        shown={() => ranges.current}
        onChange={(ends) => change(withEnds('y', ends) as Partial<Options>)}
        className="top-6 bottom-11"
      />
    </div>
  )
}

/** Where the test stands now: a dot at the curve's end. */
function drawNewest({ ctx, data, valToPos }: uPlot): void {
  const ys = data[1] ?? []
  let end = ys.length - 1
  while (end >= 0 && ys[end] == null) end--
  const [x, y] = [data[0][end], ys[end]]
  if (x == null || y == null) return
  const ratio = devicePixelRatio
  ctx.save()
  ctx.setLineDash([])
  ctx.beginPath()
  ctx.arc(valToPos(x, 'x', true), valToPos(y, 'y', true), 5.5 * ratio, 0, 2 * Math.PI)
  ctx.fillStyle = token('--marking')
  ctx.fill()
  ctx.strokeStyle = token('--ink')
  ctx.lineWidth = 1.6 * ratio
  ctx.stroke()
  ctx.restore()
}

/** The range of values with some room, at least `least` wide: noise alone fills no plot. */
function spanned(
  columns: readonly (readonly (number | null)[])[],
  least: number,
): [number, number] {
  let [low, high] = [Infinity, -Infinity]
  for (const column of columns)
    for (const v of column) {
      if (v === null) continue
      if (v < low) low = v
      if (v > high) high = v
    }
  if (low > high) [low, high] = [0, 0]
  const span = Math.max(high - low, least)
  const bottom = low >= 0 && low < span ? 0 : low // zero is shown where it lies near
  return [bottom - span * 0.04, low + span * 1.08]
}
