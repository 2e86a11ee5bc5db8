import { useCallback, useMemo, useRef } from 'react'
import type uPlot from 'uplot'

import type { Setup } from '../../api/client'
import { useLive } from '../../live/LiveProvider'
import { Plot } from '../../plots/Plot'
import { readablesOf, type Readable } from '../../readable'
import { token } from '../../ui/theme'
import { fromSi } from '../../ui/units'
import type { Pane, PaneProps } from '../pane'
import { shown, traceOf, type Span } from '../traces'

/** Quantities of which the first channel is drawn, measured before computed. */
interface Options {
  x: string
  y: string
}

function XY({ setup, options }: PaneProps<Options>) {
  const [x, y] = channelsOf(setup, options)
  return x && y ? <Curve key={x.unit + y.unit} x={x} y={y} /> : null
}

const channelsOf = (setup: Setup, { x, y }: Options) =>
  [x, y].map((quantity) => readablesOf(setup).find((c) => c.quantity === quantity))

export const xy: Pane<Options> = {
  title: 'One channel over another',
  fits: () => true,
  shows: (setup, options) => channelsOf(setup, options).every(Boolean),
  options: { x: 'extension', y: 'force' },
  Component: XY,
}

/** One channel over another, from the beginning of the run on. */
function Curve({ x, y }: { x: Readable; y: Readable }) {
  const live = useLive()
  const subscribe = useCallback((f: () => void) => live.subscribe(f, x.key, y.key), [live, x, y])
  // Made once a redraw: the plot asks for its ranges right after.
  const made = useRef<[number[], (number | null)[]]>([[], []])
  const data = useCallback((): uPlot.AlignedData => {
    const span: Span = live.wholeRun.size ? 'whole' : 'rolling'
    const xs = traceOf(live, x.key, span)?.last ?? []
    const ys = traceOf(live, y.key, span)?.last ?? []
    const count = Math.min(xs.length, ys.length)
    made.current = [
      xs.slice(0, count).map((v) => fromSi(v, x.unit)),
      ys.slice(0, count).map((v) => shown(v, y.unit)),
    ]
    return made.current
  }, [live, x, y])
  const curves = useMemo(() => [{ name: '', colour: '--curve-1' }], [])
  return (
    <Plot
      curves={curves}
      data={data}
      subscribe={subscribe}
      unordered
      xRange={() => spanned(made.current[0], fromSi(5e-5, x.unit))}
      xName={x.name}
      xUnit={x.unit}
      yName={y.name}
      yUnit={y.unit}
      yRange={() => spanned(made.current[1], fromSi(50, y.unit))}
      label={`${y.name} over ${x.name}`}
      draw={drawNewest}
    />
  )
}

/** Where the test stands now: a dot at the curve's end. */
function drawNewest({ ctx, data, valToPos }: uPlot): void {
  const end = data[0].length - 1
  const [x, y] = [data[0][end], data[1]?.[end]]
  if (x == null || y == null) return
  const ratio = devicePixelRatio
  ctx.save()
  ctx.beginPath()
  ctx.arc(valToPos(x, 'x', true), valToPos(y, 'y', true), 5.5 * ratio, 0, 2 * Math.PI)
  ctx.fillStyle = token('--marking')
  ctx.fill()
  ctx.strokeStyle = token('--ink')
  ctx.lineWidth = 1.6 * ratio
  ctx.stroke()
  ctx.restore()
}

/** The range of `values` with some room, at least `least` wide: noise alone fills no plot. */
function spanned(values: readonly (number | null)[], least: number): [number, number] {
  let low = values[0] ?? 0
  let high = low
  for (const v of values) {
    if (v === null) continue
    if (v < low) low = v
    if (v > high) high = v
  }
  const span = Math.max(high - low, least)
  return [Math.min(low, 0) - span * 0.04, low + span * 1.08]
}
