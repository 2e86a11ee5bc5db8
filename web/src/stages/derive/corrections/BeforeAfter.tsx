import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import type { Run } from '../../../api/client'
import { correctedView, type Correction, type RunReading } from '../../../api/readings'
import { fetchView } from '../../../api/view'
import { drawBeside, STYLES, widened } from '../../../plots/beside'
import { columnsOf, hatchesOf } from '../../../plots/columns'
import { padded, Plot } from '../../../plots/Plot'

const PIXELS = 1000

interface Props {
  run: Run
  channel: RunReading
  correction: Correction
  /** It cannot be made: only what is read now shows. */
  wrong: boolean
}

/** A channel as it is read now, dashed, and as the correction would make it. */
export function BeforeAfter({ run, channel, correction, wrong }: Props) {
  const { key, name, unit } = channel
  const before = useQuery({
    queryKey: ['view', run.id, key, run.readings, 0, run.duration_s, 'before'],
    queryFn: () => fetchView(run.id, key, [0, run.duration_s], PIXELS, undefined, run.readings),
    staleTime: Infinity,
  }).data
  const after = useQuery({
    queryKey: ['corrected view', run.id, key, run.readings, correction],
    queryFn: () => correctedView(run.id, key, correction, PIXELS),
    enabled: !wrong,
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: Infinity,
  }).data
  const shown = wrong ? before : after
  const columns = useMemo(() => columnsOf(shown ?? [], unit), [shown, unit])
  const beside = useMemo(
    () =>
      before && !wrong
        ? [{ ...STYLES[1]!, alpha: 0.5, colour: '--ink-soft', data: columnsOf(before, unit) }]
        : [],
    [before, wrong, unit],
  )
  const draw = useCallback((plot: uPlot) => drawBeside(plot, beside), [beside])
  const data = useCallback(() => columns, [columns])
  const curves = useMemo(() => [{ name: '', colour: '--curve-2' }], [])
  const hatches = useMemo(() => hatchesOf(shown ?? []), [shown])
  return (
    <div className="flex min-h-0 min-w-0 flex-col p-1">
      <p className="flex items-center gap-4 px-3 pt-1.5 text-small text-soft">
        <Key dashed colour="var(--ink-soft)" words="as it is read now" />
        <Key colour="var(--curve-2)" words="corrected" />
      </p>
      <div className="flex min-h-0 flex-1">
        <Plot
          key={unit}
          curves={curves}
          data={data}
          draw={draw}
          hatches={() => hatches}
          yRange={(low, high) => padded(...widened(low, high, beside))}
          xName="Time"
          xUnit="s"
          yName={name}
          yUnit={unit}
          label={`${name} before and after the correction`}
        />
      </div>
    </div>
  )
}

function Key({ colour, words, dashed }: { colour: string; words: string; dashed?: boolean }) {
  return (
    <span className="flex items-center gap-1.5">
      <svg width="24" height="6" aria-hidden>
        <path
          d="M0 3H24"
          stroke={colour}
          strokeWidth="1.6"
          strokeDasharray={dashed ? '5 3' : undefined}
        />
      </svg>
      {words}
    </span>
  )
}
