import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'
import type uPlot from 'uplot'

import type { Run, Setup } from '../../api/client'
import {
  cancelReadings,
  computeReadings,
  readingsQuery,
  type RunReading,
  type RunReadings,
} from '../../api/readings'
import { fetchView, type PlotSegment } from '../../api/view'
import { drawBeside, STYLES, widened, type Beside } from '../../plots/beside'
import { columnsOf, hatchesOf } from '../../plots/columns'
import { useMarks, type Mark } from '../../plots/marks'
import { padded, Plot } from '../../plots/Plot'
import { ComputedPanel } from '../../computed/ComputedPanel'
import { Button } from '../../ui/Button'
import { ComputedSign } from '../../ui/Diamond'
import { Icon } from '../../ui/Icon'
import { attempt } from '../../ui/notices'

const COLOURS = ['--curve-1', '--curve-2', '--curve-3', '--curve-4', '--curve-5', '--curve-6']
const PIXELS = 1400
const MIN_SPAN = 1e-3 // s

type Range = [number, number]

interface Props {
  setup: Setup
  run: Run
  /** Runs of the setup, any of which may be laid beside it. */
  runs: readonly Run[]
  readings: RunReadings | undefined
}

/** The channels of a run over time, with those of others; drag over a plot to look closer. */
export function OverTime({ setup, run, runs, readings }: Props) {
  const [zoomed, setZoomed] = useState<Range | null>(null)
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set())
  const [besides, setBesides] = useState<readonly number[]>([])
  const others = besides.flatMap((id) => runs.find((r) => r.id === id && id !== run.id) ?? [])
  const end = Math.max(run.duration_s, ...others.map((o) => o.duration_s), MIN_SPAN)
  const range = zoomed ?? ([0, end] as Range)
  const zoom = (from: number, to: number) => {
    if (to - from >= MIN_SPAN) setZoomed([Math.max(0, from), Math.min(end, to)])
  }
  const channels = readings?.channels ?? []
  const marks = useMarks(run.id)
  const shown = channels.filter((c) => !hidden.has(c.key))
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-1.5 text-small text-soft">
        <Channels channels={channels} hidden={hidden} onChange={setHidden} />
        <Besides runs={runs.filter((r) => r.id !== run.id)} chosen={others} onChange={setBesides} />
        <span className="ml-auto">
          <Button size={24} disabled={!zoomed} onClick={() => setZoomed(null)}>
            Whole run
          </Button>
        </span>
      </div>
      <Progress run={run} readings={readings} />
      <div
        tabIndex={0}
        role="group"
        aria-label="Channels over time"
        className="flex min-h-0 flex-1 flex-col overflow-y-auto"
      >
        {shown.map((channel, i) => (
          <div
            key={channel.key}
            className={`flex flex-auto ${i === shown.length - 1 ? 'min-h-30' : 'min-h-21'}`}
          >
            <ChannelPlot
              run={run}
              others={others}
              channel={channel}
              colour={COLOURS[channels.indexOf(channel) % COLOURS.length]!}
              range={range}
              first={i === 0}
              last={i === shown.length - 1}
              marks={marks}
              nameRoom={Math.max(...channels.map((c) => c.name.length))}
              onZoom={zoom}
            />
          </div>
        ))}
      </div>
      <ComputedPanel setup={setup} open={false} live={false} />
    </div>
  )
}

/** How far computed channels are, and why some cannot be. */
function Progress({ run, readings }: { run: Run; readings: RunReadings | undefined }) {
  const [cancelled, setCancelled] = useState('')
  const channels = readings?.channels ?? []
  const isCancelled = cancelled === readings?.version
  const turn = async () => {
    if (isCancelled) await computeReadings(run.id)
    else await cancelReadings(run.id)
    setCancelled(isCancelled ? '' : (readings?.version ?? ''))
  }
  const waiting = channels.filter((c) => c.share < 1 && !c.problem)
  const problems = [
    ...channels.map((c) => c.problem).filter(Boolean),
    ...(readings?.problems ?? []),
  ]
  return (
    <>
      {waiting.length > 0 && (
        <p role="status" className="flex items-center gap-3 bg-marking-wash px-4 py-1 text-small">
          Computing {waiting.map((c) => `${c.name} ${Math.round(c.share * 100)} %`).join(', ')}
          <button type="button" className="underline" onClick={() => void attempt(turn())}>
            {isCancelled ? 'Compute' : 'Cancel'}
          </button>
        </p>
      )}
      {problems.map((problem) => (
        <p key={problem} className="px-4 py-0.5 text-small text-signal">
          {problem}
        </p>
      ))}
    </>
  )
}

function Channels(props: {
  channels: readonly RunReading[]
  hidden: ReadonlySet<string>
  onChange: (hidden: ReadonlySet<string>) => void
}) {
  const { channels, hidden, onChange } = props
  const turn = (key: string) => {
    const next = new Set(hidden)
    if (!next.delete(key)) next.add(key)
    onChange(next)
  }
  return (
    <span role="group" aria-label="Channels shown" className="flex flex-wrap gap-1">
      {channels.map(({ key, name, formula }) => (
        <button
          key={key}
          type="button"
          aria-pressed={!hidden.has(key)}
          onClick={() => turn(key)}
          className={`inline-flex h-6 items-center gap-1 rounded border px-2 ${
            hidden.has(key)
              ? 'border-dashed border-rule-strong text-soft'
              : 'border-rule-strong bg-paper font-number text-ink'
          }`}
        >
          {formula && <ComputedSign size={11} />} {name}
        </button>
      ))}
    </span>
  )
}

function Besides(props: {
  runs: readonly Run[]
  chosen: readonly Run[]
  onChange: (ids: readonly number[]) => void
}) {
  const { runs, chosen, onChange } = props
  const ids = chosen.map((r) => r.id)
  const free = runs.filter((r) => !ids.includes(r.id))
  return (
    <>
      {chosen.map((other, i) => (
        <span key={other.id} className="flex h-6 items-center gap-1.5 text-ink">
          <svg width="22" height="8" aria-hidden>
            <path
              d="M0 4H22"
              stroke="var(--ink)"
              strokeWidth={STYLES[i]!.width}
              strokeOpacity={STYLES[i]!.alpha}
              strokeDasharray={STYLES[i]!.dash.join(' ')}
            />
          </svg>
          {other.name}
          <button
            type="button"
            aria-label={`Take ${other.name} away`}
            className="p-1 text-soft hover:text-ink"
            onClick={() => onChange(ids.filter((id) => id !== other.id))}
          >
            <Icon name="cross" size={11} />
          </button>
        </span>
      ))}
      {free.length > 0 && chosen.length < STYLES.length && (
        <select
          aria-label="Lay another run beside it"
          value=""
          onChange={(e) => onChange([...ids, Number(e.target.value)])}
          className="h-6 max-w-44 rounded border border-rule-strong bg-sheet px-1 text-ink"
        >
          <option value="">Lay beside it…</option>
          {free.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name}
            </option>
          ))}
        </select>
      )}
    </>
  )
}

interface PlotProps {
  run: Run
  others: readonly Run[]
  channel: RunReading
  colour: string
  range: Range
  last: boolean
  /** Named instants, in words in the first plot. */
  marks: readonly Mark[]
  first: boolean
  /** Letters of the longest name. */
  nameRoom: number
  onZoom: (from: number, to: number) => void
}

const viewOf = (run: Run, key: string, range: Range, share = 1) => ({
  queryKey: ['view', run.id, key, run.readings, share, ...range],
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    fetchView(run.id, key, range, PIXELS, signal, share < 1 ? '' : run.readings),
  placeholderData: keepPreviousData,
  staleTime: Infinity,
  gcTime: 60_000,
})

/** The same channel in another run: by its key, or else by its name. */
const sameIn = (other: RunReadings | undefined, channel: RunReading): RunReading | undefined =>
  other?.channels.find((c) => c.key === channel.key) ??
  other?.channels.find((c) => c.name === channel.name && c.quantity === channel.quantity)

function ChannelPlot(props: PlotProps) {
  const { run, others, channel, colour, range, first, last, marks, nameRoom, onZoom } = props
  const { key, unit, name } = channel
  const segments = useQuery({
    ...viewOf(run, key, range, channel.share),
    enabled: channel.share > 0 && !channel.problem,
  }).data
  const columns = useMemo(() => columnsOf(segments ?? [], unit), [segments, unit])
  const hatches = useMemo(() => hatchesOf(segments ?? []), [segments])
  const beside = useBeside(others, channel, colour, range)
  const draw = useCallback((plot: uPlot) => drawBeside(plot, beside), [beside])
  const data = useCallback(() => columns, [columns])
  const curves = useMemo(() => [{ name, colour }], [name, colour])
  const clipped = hatches.some((h) => h.why === 'clipped')
  return (
    <Plot
      curves={curves}
      data={data}
      draw={draw}
      yRange={(low, high) => padded(...widened(low, high, beside))}
      hatches={() => hatches}
      marks={() => marks}
      namesMarks={first}
      xRange={() => range}
      xName="Time"
      xUnit="s"
      yName={name}
      yUnit={clipped ? `${unit}, clipped where hatched` : unit}
      hideX={!last}
      nameRoom={nameRoom}
      onZoom={onZoom}
      label={`${name} over time`}
    />
  )
}

function useBeside(
  others: readonly Run[],
  channel: RunReading,
  colour: string,
  range: Range,
): readonly Beside[] {
  const theirs = useQueries({
    queries: others.map((o) => readingsQuery(o.id)),
    combine: readingsIn,
  })
  const found = useQueries({
    queries: others.map((other, i) => {
      const same = sameIn(theirs[i], channel)
      return { ...viewOf(other, same?.key ?? '', range, same?.share), enabled: !!same?.share }
    }),
    combine: dataOf,
  })
  return useMemo(
    () =>
      found.flatMap((segments, i) =>
        segments ? [{ ...STYLES[i]!, colour, data: columnsOf(segments, channel.unit) }] : [],
      ),
    [found, colour, channel.unit],
  )
}

const dataOf = (results: readonly { data?: PlotSegment[] }[]) => results.map((r) => r.data)
const readingsIn = (results: readonly { data?: RunReadings }[]) => results.map((r) => r.data)
