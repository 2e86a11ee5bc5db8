import { useCallback, useMemo, useState } from 'react'
import type uPlot from 'uplot'

import { useBenchState, useLive } from '../../live/LiveProvider'
import { readablesOf, type Readable } from '../../readable'
import type { Trace } from '../../live/trace'
import { useMarks, type Mark } from '../../plots/marks'
import { Plot, X_FIGURES, type Hatch } from '../../plots/Plot'
import { Segments } from '../../ui/Fact'
import { spanFromSi } from '../../ui/units'
import type { Pane, PaneProps } from '../pane'
import { shown, traceOf, type Span } from '../traces'
import { useBeginning } from './beginning'

const COLOURS = ['--curve-1', '--curve-2', '--curve-3', '--curve-4', '--curve-5', '--curve-6']
const NO_MARKS: readonly Mark[] = []
const MIN_STRIP = 60 // px; more strips than fit scroll

interface Options {
  /** Seconds before now that are shown while nothing is recorded. */
  rollingS: number
}

/** Stacked strips over time. */
function Strips({ setup, recording, options: { rollingS } }: PaneProps<Options>) {
  useBeginning(setup.channels)
  const channels = readablesOf(setup)
  const [chosen, setSpan] = useState<Span | null>(null)
  const live = useLive()
  const marks = useMarks(useBenchState()?.run ?? null)
  // A run that has just ended stays in view until its plots are told otherwise.
  const span = chosen ?? (recording || live.wholeRun.size ? 'whole' : 'rolling')
  const nameRoom = Math.max(0, ...channels.flatMap((c) => [c.name.length, c.unit.length]))
  return (
    <>
      <div className="bar">
        <h2>{span === 'rolling' ? `Last ${rollingS} seconds` : 'Whole run'}</h2>
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
        className="flex min-h-0 flex-1 flex-col overflow-y-auto"
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
                rollingS={rollingS}
                first={i === 0}
                last={last}
                marks={span === 'whole' ? marks : NO_MARKS}
                nameRoom={nameRoom}
              />
            </div>
          )
        })}
      </div>
    </>
  )
}

export const strips: Pane<Options> = {
  title: 'Strips over time',
  fits: () => true,
  shows: ({ channels }) => channels.length > 0,
  options: { rollingS: 30 },
  Component: Strips,
}

interface StripProps {
  channel: Readable
  colour: string
  span: Span
  rollingS: number
  first: boolean
  last: boolean
  marks: readonly Mark[]
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

/** The least that a strip spans, SI, so that noise alone does not fill it. */
const MIN_SPANS: Record<string, number> = {
  force: 20,
  extension: 2e-5,
  displacement: 2e-5,
  strain: 2e-5,
  pressure: 2e4,
  temperature: 0.5,
}

function Strip(props: StripProps) {
  const { channel, colour, span, rollingS, first, last, marks, nameRoom } = props
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
    if (span === 'rolling') return [-rollingS, 0]
    return [0, Math.max(10, (traceOf(live, key, span)?.times.at(-1) ?? 0) * 1.05)]
  }, [live, key, span, rollingS])
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
      marks={() => marks}
      namesMarks={first}
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
