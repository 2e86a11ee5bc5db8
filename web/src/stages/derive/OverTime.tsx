import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'
import type uPlot from 'uplot'

import type { Run } from '../../api/client'
import { fetchView } from '../../api/view'
import { Plot } from '../../plots/Plot'
import { Button } from '../../ui/Button'
import { fromSi } from '../../ui/format'

const COLOURS = ['--curve-1', '--curve-2', '--curve-3', '--curve-4', '--curve-5', '--curve-6']
const PIXELS = 1400

/** Every channel over time; drag over a plot to look closer. */
export function OverTime({ run }: { run: Run }) {
  const [range, setRange] = useState<[number, number]>([0, run.samples])
  const rate = run.rate_hz ?? 1
  const zoom = (from: number, to: number) => {
    const first = Math.max(0, Math.floor(from * rate))
    const last = Math.min(run.samples, Math.ceil(to * rate))
    if (last - first >= 8) setRange([first, last])
  }
  const whole = range[0] === 0 && range[1] === run.samples
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex items-center gap-2 px-4 py-1.5 text-soft">
        Drag over a plot to look closer.
        <Button size={24} disabled={whole} onClick={() => setRange([0, run.samples])}>
          Whole run
        </Button>
      </div>
      {run.channels.map((channel, i) => (
        <ChannelPlot
          key={channel.id}
          run={run}
          index={i}
          range={range}
          rate={rate}
          last={i === run.channels.length - 1}
          onZoom={zoom}
        />
      ))}
    </div>
  )
}

interface Props {
  run: Run
  index: number
  range: [number, number]
  rate: number
  last: boolean
  onZoom: (from: number, to: number) => void
}

function ChannelPlot({ run, index, range, rate, last, onZoom }: Props) {
  const channel = run.channels[index]!
  const view = useQuery({
    queryKey: ['view', run.id, index, ...range],
    queryFn: ({ signal }) => fetchView(run.id, index, range, PIXELS, signal),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  }).data
  const columns = useMemo((): uPlot.AlignedData => {
    const x: number[] = []
    const y: (number | null)[] = []
    for (let i = 0; i < (view?.low.length ?? 0); i++) {
      const time = (view!.first + (i + 0.5) * view!.step) / rate
      const low = view!.low[i]!
      x.push(time, time)
      y.push(
        ...(Number.isNaN(low)
          ? [null, null]
          : [fromSi(low, channel.unit), fromSi(view!.high[i]!, channel.unit)]),
      )
    }
    return [x, y]
  }, [view, rate, channel.unit])
  const data = useCallback(() => columns, [columns])
  const curves = useMemo(
    () => [{ name: channel.name, colour: COLOURS[index % COLOURS.length]! }],
    [channel.name, index],
  )
  return (
    <Plot
      curves={curves}
      data={data}
      xRange={() => [range[0] / rate, range[1] / rate]}
      xName="Time"
      xUnit="s"
      yName={channel.name}
      yUnit={channel.unit}
      hideX={!last}
      nameRoom={Math.max(...run.channels.map((c) => c.name.length))}
      onZoom={onZoom}
      label={`${channel.name} over time`}
    />
  )
}
