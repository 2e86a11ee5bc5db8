import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'

import type { Run, Schemas } from '../../api/client'
import { fetchView } from '../../api/view'
import { columnsOf, hatchesOf } from '../../plots/columns'
import { Plot } from '../../plots/Plot'
import { Button } from '../../ui/Button'

const COLOURS = ['--curve-1', '--curve-2', '--curve-3', '--curve-4', '--curve-5', '--curve-6']
const PIXELS = 1400
const SHORTEST = 1e-3 // s

/** Every channel over time; drag over a plot to look closer. */
export function OverTime({ run }: { run: Run }) {
  const [zoomed, setZoomed] = useState<[number, number] | null>(null)
  const range = zoomed ?? [0, Math.max(run.duration_s, SHORTEST)]
  const zoom = (from: number, to: number) => {
    if (to - from >= SHORTEST) setZoomed([Math.max(0, from), Math.min(run.duration_s, to)])
  }
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex items-center gap-2 px-4 py-1.5 text-soft">
        Drag over a plot to look closer.
        <Button size={24} disabled={!zoomed} onClick={() => setZoomed(null)}>
          Whole run
        </Button>
      </div>
      <div
        tabIndex={0}
        role="group"
        aria-label="Channels over time"
        className="flex min-h-0 flex-1 flex-col overflow-y-auto"
      >
        {run.channels.map((channel, i) => (
          <div
            key={channel.key}
            className={`flex flex-auto ${i === run.channels.length - 1 ? 'min-h-[120px]' : 'min-h-[84px]'}`}
          >
            <ChannelPlot
              run={run}
              channel={channel}
              colour={COLOURS[i % COLOURS.length]!}
              range={range}
              last={i === run.channels.length - 1}
              onZoom={zoom}
            />
          </div>
        ))}
      </div>
    </div>
  )
}

interface Props {
  run: Run
  channel: Schemas['FrozenChannel']
  colour: string
  range: [number, number]
  last: boolean
  onZoom: (from: number, to: number) => void
}

function ChannelPlot({ run, channel, colour, range, last, onZoom }: Props) {
  const { key, unit, name } = channel
  const stretches = useQuery({
    queryKey: ['view', run.id, key, ...range],
    queryFn: ({ signal }) => fetchView(run.id, key, range, PIXELS, signal),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
  }).data
  const columns = useMemo(() => columnsOf(stretches ?? [], unit), [stretches, unit])
  const hatches = useMemo(() => hatchesOf(stretches ?? []), [stretches])
  const data = useCallback(() => columns, [columns])
  const curves = useMemo(() => [{ name, colour }], [name, colour])
  const clipped = hatches.some((h) => h.why === 'clipped')
  return (
    <Plot
      curves={curves}
      data={data}
      hatches={() => hatches}
      xRange={() => range}
      xName="Time"
      xUnit="s"
      yName={name}
      yUnit={clipped ? `${unit}, clipped where hatched` : unit}
      hideX={!last}
      nameRoom={Math.max(...run.channels.map((c) => c.name.length))}
      onZoom={onZoom}
      label={`${name} over time`}
    />
  )
}
