import { useCallback, useMemo, useRef } from 'react'
import type uPlot from 'uplot'

import { useLive } from '../../live/LiveProvider'
import type { Trace } from '../../live/trace'
import type { Mark } from '../../plots/marks'
import { Plot, type Hatch } from '../../plots/Plot'
import type { Readable } from '../../readable'
import { AxisEnds } from '../AxisEnds'
import { fitted, ranged, type Ends } from '../ends'
import { shown, traceOf, type Span } from '../traces'

export interface InTime {
  span: Span
  rollingS: number
  zoom: readonly [number, number] | null
  onZoom?: (from: number, to: number) => void
  marks: readonly Mark[]
}

interface Props extends InTime {
  channel: Readable
  colour: string
  first: boolean
  last: boolean
  nameRoom: number
  ends: Ends
  onEnds: (ends: Ends) => void
}

/** Lowest and highest of each bin one after the other: the line fills what lies between. */
export function columns(
  trace: Trace | undefined,
  unit: string,
  shift: number,
  from = -Infinity,
): uPlot.AlignedData {
  const first = trace ? firstFrom(trace.times, from + shift) : 0
  const count = (trace?.times.length ?? 0) - first
  const x = new Array<number>(2 * count)
  const y = new Array<number | null>(2 * count)
  for (let i = 0; i < count; i++) {
    x[2 * i] = x[2 * i + 1] = trace!.times[first + i]! - shift
    y[2 * i] = shown(trace!.low[first + i]!, unit)
    y[2 * i + 1] = shown(trace!.high[first + i]!, unit)
  }
  return [x, y]
}

/** The place of the last bin before a time, so that the line comes in from the edge. */
function firstFrom(times: readonly number[], from: number): number {
  let [low, high] = [0, times.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (times[middle]! < from) low = middle + 1
    else high = middle
  }
  return Math.max(0, low - 1)
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

/** Which times are shown: those zoomed to, the last seconds, or the run so far. */
export function timesShown({ span, rollingS, zoom }: InTime, end: number): [number, number] {
  if (zoom) return [zoom[0], zoom[1]]
  return span === 'rolling' ? [-rollingS, 0] : [0, Math.max(10, end * 1.05)]
}

/** The first time that is drawn: what lies before costs nothing. */
export const sinceOf = ({ span, rollingS, zoom }: InTime): number =>
  zoom ? zoom[0] : span === 'rolling' ? -rollingS : -Infinity

/** One channel over time. */
export function Strip(props: Props) {
  const { channel, colour, span, zoom, first, last, marks, nameRoom, ends, onEnds } = props
  const live = useLive()
  const { key, unit } = channel
  const measured = useRef<[number, number]>([0, 1])
  const now = useCallback(
    () => (span === 'rolling' ? (traceOf(live, key, span)?.times.at(-1) ?? 0) : 0),
    [live, key, span],
  )
  const since = sinceOf(props)
  const data = useCallback(
    () => columns(traceOf(live, key, span), unit, now(), since),
    [live, key, unit, span, now, since],
  )
  const subscribe = useCallback((f: () => void) => live.subscribe(f, key), [live, key])
  const curves = useMemo(
    () => [{ name: channel.name, colour, envelope: true }],
    [channel.name, colour],
  )
  return (
    <>
      <Plot
        curves={curves}
        data={data}
        view={`${zoom?.join() ?? ''} ${ends.join()}`}
        hatches={() => clippedParts(traceOf(live, key, span), now())}
        marks={() => marks}
        namesMarks={first}
        subscribe={subscribe}
        onZoom={props.onZoom}
        xRange={() => timesShown(props, traceOf(live, key, span)?.times.at(-1) ?? 0)}
        yRange={(low, high) => {
          measured.current = ranged(ends, fitted(low, high, channel))
          return measured.current
        }}
        xName={span === 'rolling' ? 'Time before now' : 'Time'}
        xUnit="s"
        yName={channel.name}
        yUnit={unit}
        hideX={!last}
        nameRoom={nameRoom}
        nameBeside
        label={`${channel.name} over time`}
      />
      <AxisEnds
        of={channel.name}
        ends={ends}
        shown={() => measured.current}
        onChange={onEnds}
        className={last ? 'top-0 bottom-11' : 'top-0 bottom-1'}
      />
    </>
  )
}
