import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import { Plot } from '../../../plots/Plot'
import { EditableNumber } from '../../../ui/Editable'
import { Fact, Section } from '../../../ui/Fact'
import { fromSi, spanFromSi, spanToSi, toSi } from '../../../ui/units'
import { StretchForm } from '../../stretches'
import {
  channelName,
  type FigureProps,
  type FormProps,
  type Parameters,
  type ResultKind,
} from '../kind'

/** The stretch, each column from its lowest to its highest. */
function Figure({ details, columns }: FigureProps<'statistics'>) {
  const { channel, unit, outside } = details
  const drawn = useMemo(() => {
    const { time, lowest, highest } = columns as Record<string, Float32Array>
    const x = Array.from(time!).flatMap((t) => [t, t])
    const y = Array.from(lowest!).flatMap((low, i) => [
      fromSi(low, unit),
      fromSi(highest![i]!, unit),
    ])
    return [x, y] as uPlot.AlignedData
  }, [columns, unit])
  const data = useCallback(() => drawn, [drawn])
  const curves = useMemo(() => [{ name: channel, colour: '--curve-1', envelope: true }], [channel])
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      {outside.map((words) => (
        <p key={words} className="px-4 pt-2 font-strong text-signal">
          {words}
        </p>
      ))}
      <Plot
        curves={curves}
        data={data}
        xName="Time"
        xUnit="s"
        yName={channel}
        yUnit={unit}
        label={`${channel} over the stretch`}
      />
    </div>
  )
}

type Limit = NonNullable<Parameters<'statistics'>['limits']>[number]

const FIGURES: readonly [Limit['figure'], string, span: boolean][] = [
  ['lowest', 'Lowest', false],
  ['highest', 'Highest', false],
  ['mean', 'Mean', false],
  ['rms', 'Root mean square', true],
  ['deviation', 'Deviation', true],
  ['peak_to_peak', 'Peak to peak', true],
]

function Form({ run, parameters: p, disabled, change }: FormProps<'statistics'>) {
  const channel = run.channels.find((c) => c.key === p.channel)
  const unit = channel?.unit ?? ''
  const decimals = channel?.decimals ?? 3
  const limits = p.limits ?? []
  const put = (of: Limit['figure'], fields: Partial<Limit>) => {
    const next = { ...limits.find((l) => l.figure === of), figure: of, ...fields } as Limit
    const others = limits.filter((l) => l.figure !== of)
    const empty = next.lowest == null && next.highest == null
    return change({ limits: empty ? others : [...others, next] } as never)
  }
  return (
    <>
      <Section title="Statistics">
        <Fact name="Channel">{channelName(run, p.channel)}</Fact>
        <StretchForm run={run} stretch={p.stretch} disabled={disabled} change={change as never} />
        <EditableNumber
          label="Time above"
          value={p.above == null ? null : fromSi(p.above, unit)}
          unit={unit}
          decimals={decimals}
          disabled={disabled}
          onSave={(v) => change({ above: toSi(v, unit) })}
          onClear={() => change({ above: null })}
        />
      </Section>
      <Section title="Limits">
        {FIGURES.map(([name, label, span]) => {
          const limit = limits.find((l) => l.figure === name)
          const shown = (v: number | null | undefined) =>
            v == null ? null : span ? spanFromSi(v, unit) : fromSi(v, unit)
          const si = (v: number) => (span ? spanToSi(v, unit) : toSi(v, unit))
          return (['lowest', 'highest'] as const).map((end) => (
            <EditableNumber
              key={`${name} ${end}`}
              label={`${label} not ${end === 'lowest' ? 'below' : 'above'}`}
              value={shown(limit?.[end])}
              unit={unit}
              decimals={decimals}
              disabled={disabled}
              onSave={(v) => put(name, { [end]: si(v) })}
              onClear={() => put(name, { [end]: null })}
            />
          ))
        })}
      </Section>
    </>
  )
}

export const statistics: ResultKind<'statistics'> = {
  title: (p, run) => `Statistics of ${channelName(run, p.channel)}`,
  Figure,
  Form,
}
