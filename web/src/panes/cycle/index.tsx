import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import { useLive } from '../../live/LiveProvider'
import { padded, Plot } from '../../plots/Plot'
import { readablesOf } from '../../readable'
import { lookOf } from '../colours'
import { cycleStarts, paired } from '../cycles'
import type { Pane, PaneProps } from '../pane'
import { shown } from '../traces'

/** `cycles`: how many before the present one are drawn behind it. */
type Options = { cycles: number }

const MAX_CYCLES = 20

export const cycle: Pane<Options> = {
  title: 'Present cycle over the last ones',
  fits: () => true,
  room: 2,
  proposes: (setup) => readablesOf(setup).slice(0, 1),
  lacks: (_, channels) =>
    channels.length
      ? ''
      : 'Choose a channel; a second one, such as an angle, goes across in place of time.',
  options: { cycles: 5 },
  fields: () => [{ name: 'cycles', label: 'Cycles behind it', unit: '', decimals: 0 }],
  Component: Cycle,
}

/** Each newest cycle over what passed since it began, or over a second channel. */
function Cycle({ setup, channels, options }: PaneProps<Options>) {
  const [of, across] = channels
  const live = useLive()
  const wanted = Math.max(1, Math.min(MAX_CYCLES, Math.round(options.cycles) || 1))
  const subscribe = useCallback((f: () => void) => live.subscribe(f, of!.key), [live, of])
  const data = useCallback((): uPlot.AlignedData => {
    const trace = live.rolling.get(of!.key)
    const other = across && live.rolling.get(across.key)
    const empty = [
      [],
      ...Array.from({ length: wanted + 1 }, () => []),
    ] as unknown as uPlot.AlignedData
    if (!trace || (across && !other)) return empty
    const [ys, xs] = other ? paired(trace, other) : [trace.last, trace.times]
    const starts = cycleStarts(ys).slice(-wanted - 1)
    if (starts.length < 2) return empty
    const x: (number | null)[] = []
    const up: (number | null)[][] = Array.from({ length: wanted + 1 }, () => [])
    // The present one is the first curve, so that it has its colour for any number of them.
    starts.forEach((from, place) => {
      const column = starts.length - 1 - place
      const to = Math.min(ys.length, (starts[place + 1] ?? ys.length) + 1)
      for (let i = from; i < to; i++) {
        x.push(across ? shown(xs[i]!, across.unit) : xs[i]! - xs[from]!)
        up.forEach((one, j) => one.push(j === column ? shown(ys[i]!, of!.unit) : null))
      }
    })
    return [x, ...up] as uPlot.AlignedData
  }, [live, of, across, wanted])
  const { colour } = lookOf(setup, of!.key)
  const curves = useMemo(
    () => [
      { name: '', colour, width: 2 },
      ...Array.from({ length: wanted }, () => ({ name: '', colour: '--rule-strong', width: 1 })),
    ],
    [colour, wanted],
  )
  return (
    <Plot
      key={of!.key + (across?.key ?? '') + of!.unit}
      curves={curves}
      data={data}
      subscribe={subscribe}
      unordered
      xName={across?.name ?? 'Since the cycle began'}
      xUnit={across?.unit ?? 's'}
      yName={`${of!.name}, present cycle`}
      yUnit={of!.unit}
      yRange={padded}
      label={`Present cycle of ${of!.name} over the last ${wanted}`}
    />
  )
}
