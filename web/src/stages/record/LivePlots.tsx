import { useCallback, useMemo, useRef, useState } from 'react'
import type uPlot from 'uplot'

import type { Channel } from '../../api/client'
import { useLive } from '../../live/LiveProvider'
import type { LiveSource } from '../../live/source'
import type { Trace } from '../../live/trace'
import { Plot, X_FIGURES, type Hatch } from '../../plots/Plot'
import { Segments } from '../../ui/Fact'
import { fromSi, spanFromSi } from '../../ui/units'
import { token } from '../../ui/theme'
import { useBeginning } from './beginning'

type Span = 'rolling' | 'whole'
const COLOURS = ['--curve-1', '--curve-2', '--curve-3', '--curve-4', '--curve-5', '--curve-6']
const ROLLING_S = 30
const MIN_STRIP = 60 // px; more strips than fit scroll

/** Stacked strips over time, and force over extension. */
export function LivePlots({ channels, recording }: { channels: Channel[]; recording: boolean }) {
  useBeginning(channels)
  const [chosen, setSpan] = useState<Span | null>(null)
  const live = useLive()
  // A run that has just ended stays in view until its plots are told otherwise.
  const span = chosen ?? (recording || live.wholeRun.size ? 'whole' : 'rolling')
  const nameRoom = Math.max(0, ...channels.flatMap((c) => [c.name.length, c.unit.length]))
  const x = channels.find((c) => c.quantity === 'extension')
  const y = channels.find((c) => c.quantity === 'force')
  return (
    <section className="col" aria-label="Live plots">
      <div className="bar">
        <h2>{span === 'rolling' ? `Last ${ROLLING_S} seconds` : 'Whole run'}</h2>
        <span className="ml-auto">
          <Segments
            label="Time shown"
            options={[
              ['rolling', 'Rolling'],
              ['whole', 'Whole run'],
            ]}
            value={span}
            onChange={setSpan}
          />
        </span>
      </div>
      <div
        tabIndex={0}
        role="group"
        aria-label="Channels over time"
        className="flex min-h-0 flex-[3] flex-col overflow-y-auto"
      >
        {channels.map((c, i) => {
          const last = i === channels.length - 1
          const axis = last ? X_FIGURES : 0
          return (
            <div
              key={`${c.key}-${span}-${c.unit}`}
              className="flex grow"
              style={{ flexBasis: axis, minHeight: MIN_STRIP + axis, contentVisibility: 'auto' }}
            >
              <Strip
                channel={c}
                colour={COLOURS[i % COLOURS.length]!}
                span={span}
                last={last}
                nameRoom={nameRoom}
              />
            </div>
          )
        })}
        {channels.length === 0 && (
          <p className="p-6 text-soft">Wire a channel and its course shows here.</p>
        )}
      </div>
      {x && y && (
        <div className="flex min-h-0 flex-[2] border-t border-rule">
          <ForceExtension key={x.unit + y.unit} x={x} y={y} />
        </div>
      )}
    </section>
  )
}

interface StripProps {
  channel: Channel
  colour: string
  span: Span
  last: boolean
  nameRoom: number
}

/** Lowest and highest of each bin one after the other: the line fills what lies between. */
function columns(trace: Trace | undefined, unit: string, shift: number): uPlot.AlignedData {
  const count = trace?.times.length ?? 0
  const x = new Array<number>(2 * count)
  const y = new Array<number | null>(2 * count)
  for (let i = 0; i < count; i++) {
    x[2 * i] = x[2 * i + 1] = trace!.times[i]! - shift
    y[2 * i] = shown(trace!.low[i]!, unit)
    y[2 * i + 1] = shown(trace!.high[i]!, unit)
  }
  return [x, y]
}

/** What clipped has no value to show. */
const shown = (value: number, unit: string) => (Number.isFinite(value) ? fromSi(value, unit) : null)

/** Bins whose blocks clipped, joined. */
function clippedParts(trace: Trace | undefined, shift: number): Hatch[] {
  const found: { from: number; to: number; why: 'clipped' }[] = []
  trace?.clipped.forEach((clipped, i) => {
    if (!clipped) return
    const from = (trace.times[i - 1] ?? trace.times[i]!) - shift
    const to = trace.times[i]! - shift
    const last = found.at(-1)
    if (last && last.to === from) last.to = to
    else found.push({ from, to, why: 'clipped' })
  })
  return found
}

function traceOf(live: LiveSource, key: string, span: Span): Trace | undefined {
  return (span === 'rolling' ? live.rolling : live.wholeRun).get(key)
}

/** The least that a strip spans, SI, so that noise alone does not fill it. */
const MIN_SPANS: Record<string, number> = {
  force: 20,
  extension: 2e-5,
  displacement: 2e-5,
  strain: 2e-5,
  pressure: 2e4,
  temperature: 0.5,
}

function Strip({ channel, colour, span, last, nameRoom }: StripProps) {
  const live = useLive()
  const { key, unit } = channel
  const now = useCallback(
    () => (span === 'rolling' ? (traceOf(live, key, span)?.times.at(-1) ?? 0) : 0),
    [live, key, span],
  )
  const data = useCallback(
    () => columns(traceOf(live, key, span), unit, now()),
    [live, key, unit, span, now],
  )
  const subscribe = useCallback((f: () => void) => live.subscribe(f, key), [live, key])
  const curves = useMemo(
    () => [{ name: channel.name, colour, envelope: true }],
    [channel.name, colour],
  )
  const xRange = useCallback((): [number, number] => {
    if (span === 'rolling') return [-ROLLING_S, 0]
    return [0, Math.max(10, (traceOf(live, key, span)?.times.at(-1) ?? 0) * 1.05)]
  }, [live, key, span])
  const least = spanFromSi(MIN_SPANS[channel.quantity] ?? 1e-3, unit)
  const yRange = (low: number, high: number): [number, number] => {
    if (low == null || high == null) return [0, 1]
    const span = Math.max(high - low, least)
    const centre = (low + high) / 2
    return [centre - span * 0.56, centre + span * 0.56]
  }
  return (
    <Plot
      curves={curves}
      data={data}
      hatches={() => clippedParts(traceOf(live, key, span), now())}
      subscribe={subscribe}
      xRange={xRange}
      yRange={yRange}
      xName={span === 'rolling' ? 'Time before now' : 'Time'}
      xUnit="s"
      yName={channel.name}
      yUnit={unit}
      hideX={!last}
      nameRoom={nameRoom}
      nameBeside
      label={`${channel.name} over time`}
    />
  )
}

function ForceExtension({ x, y }: { x: Channel; y: Channel }) {
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
