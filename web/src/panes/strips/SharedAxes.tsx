import { useCallback, useMemo } from 'react'
import uPlot from 'uplot'

import type { Setup } from '../../api/client'
import { useLive } from '../../live/LiveProvider'
import { Plot } from '../../plots/Plot'
import type { Readable } from '../../readable'
import { lookOf } from '../colours'
import { traceOf } from '../traces'
import { fitted } from '../ends'
import { columns, sinceOf, timesShown, type InTime } from './Strip'

/** The units of some channels, each once, in the order in which they come. */
export const unitsOf = (channels: readonly Readable[]): string[] => [
  ...new Set(channels.map((c) => c.unit)),
]

/** Why channels cannot share a left and a right axis; empty if they can. */
export function whyNotTogether(channels: readonly Readable[]): string {
  const units = unitsOf(channels)
  if (units.length <= 2) return ''
  const third = channels.find((c) => c.unit === units[2])!
  return `${third.name} is in ${third.unit}: the left axis has ${units[0]}, the right one ${units[1]}. Take it away, or stack the strips.`
}

/** Each bin's lowest a little before its highest: tables are joined by their times. */
const apart = (times: readonly number[]): number[] =>
  times.map((t, i) => (i % 2 ? t : t - ((times[i + 2] ?? t) - t || 0.02) / 2))

/** Several channels in one plot, on a left axis and, in another unit, on a right one. */
export function SharedAxes(props: InTime & { setup: Setup; channels: readonly Readable[] }) {
  const { setup, channels, span, marks } = props
  const live = useLive()
  const units = unitsOf(channels)
  const keys = channels.map((c) => c.key)
  const data = (): uPlot.AlignedData => {
    const tables = channels.map((c) => {
      const trace = traceOf(live, c.key, span)
      const made = columns(
        trace,
        c.unit,
        span === 'rolling' ? (trace?.times.at(-1) ?? 0) : 0,
        sinceOf(props),
      )
      return [apart(made[0] as number[]), made[1]] as uPlot.AlignedData
    })
    return uPlot.join(tables)
  }
  const asked = keys.join()
  const subscribe = useCallback(
    (f: () => void) => live.subscribe(f, ...asked.split(',')),
    [live, asked],
  )
  const curves = useMemo(
    () =>
      channels.map((c) => ({
        name: c.name,
        right: c.unit !== channels[0]!.unit,
        ...lookOf(setup, c.key),
      })),
    [channels, setup],
  )
  const why = whyNotTogether(channels)
  if (why) return <p className="m-auto max-w-90 p-4 text-center text-soft">{why}</p>
  const end = () => Math.max(0, ...keys.map((key) => traceOf(live, key, span)?.times.at(-1) ?? 0))
  const named = (unit: string | undefined) =>
    channels
      .filter((c) => c.unit === unit)
      .map((c) => c.name)
      .join(', ')
  return (
    <Plot
      curves={curves}
      data={data}
      subscribe={subscribe}
      view={props.zoom?.join()}
      marks={() => marks}
      namesMarks
      onZoom={props.onZoom}
      xRange={() => timesShown(props, end())}
      yRange={(low, high) => fitted(low, high, channels[0]!)}
      xName={span === 'rolling' ? 'Time before now' : 'Time'}
      xUnit="s"
      yName={named(units[0])}
      yUnit={units[0]!}
      rightName={units[1] === undefined ? undefined : named(units[1])}
      rightUnit={units[1]}
      label={`${channels.map((c) => c.name).join(', ')} over time`}
    />
  )
}
