import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import { At } from '../../../plots/At'
import { Plot } from '../../../plots/Plot'
import { Fact, Section } from '../../../ui/Fact'
import { figure } from '../../../ui/format'
import { Numbers } from '../../../ui/Numbers'
import { spanFromSi } from '../../../ui/units'
import { Choice } from '../../../ui/Choice'
import { StretchForm } from '../../stretches'
import { channelName, type FigureProps, type FormProps, type ResultKind } from '../kind'

const DECADES = 1e-5 // of the highest line, that are shown below it
const NAMED = 5
const WINDOWS = [
  ['hann', 'Hann'],
  ['flat_top', 'flat top, for amplitudes'],
  ['none', 'none'],
] as const

/** Amplitudes by frequency, the peaks named. */
function Figure({ details, columns }: FigureProps<'spectrum'>) {
  const { channel, unit, peaks, parts, step_hz, bandwidth_hz, window } = details
  const drawn = useMemo(() => {
    const { frequency, amplitude } = columns as Record<string, Float32Array>
    const of = (v: number) => (v > 0 ? spanFromSi(v, unit) : null)
    return [Array.from(frequency!).slice(1), Array.from(amplitude!, of).slice(1)]
  }, [columns, unit])
  const highest = (drawn[1] as (number | null)[]).reduce<number>((m, v) => Math.max(m, v ?? 0), 0)
  const data = useCallback(() => drawn as uPlot.AlignedData, [drawn])
  const curves = useMemo(() => [{ name: channel, colour: '--curve-1' }], [channel])
  const words = WINDOWS.find(([name]) => name === window)?.[1] ?? window
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <p className="px-4 pt-2 text-small text-soft">
        Amplitude of a sine at each line; {words}, {figure(parts, 0)} parts averaged, lines{' '}
        <span className="figure">{figure(step_hz, 3)}</span> Hz apart and{' '}
        <span className="figure">{figure(bandwidth_hz, 3)}</span> Hz wide
      </p>
      <Plot
        curves={curves}
        data={data}
        logY
        yRange={() => [highest * DECADES || 1e-5, highest * 4 || 1]}
        xName="Frequency"
        xUnit="Hz"
        yName={channel}
        yUnit={unit}
        label={`Spectrum of ${channel}`}
        overlay={(plot) =>
          peaks.slice(0, NAMED).map(({ hz, value }) => (
            <At key={hz} plot={plot} x={hz} y={spanFromSi(value, unit)}>
              <span className="absolute bottom-1 -translate-x-1/2 text-small whitespace-nowrap text-vermilion">
                <b className="figure font-strong">{figure(hz, 1)}</b> Hz
              </span>
            </At>
          ))
        }
      />
    </div>
  )
}

const FIELDS = [
  { name: 'resolution_hz', label: 'Lines apart', unit: 'Hz', decimals: 2 },
  { name: 'band_from_hz', label: 'RMS from', unit: 'Hz', decimals: 1 },
  { name: 'band_to_hz', label: 'RMS to', unit: 'Hz', decimals: 1, clearable: true },
]

function Form({ run, parameters: p, disabled, change }: FormProps<'spectrum'>) {
  return (
    <Section title="Spectrum">
      <Fact name="Channel">{channelName(run, p.channel)}</Fact>
      <StretchForm run={run} stretch={p.stretch} disabled={disabled} change={change as never} />
      <Choice
        label="Window"
        value={p.window ?? 'hann'}
        options={WINDOWS}
        disabled={disabled}
        onChoose={(window) => change({ window } as never)}
      />
      <Numbers fields={FIELDS} values={p} disabled={disabled} change={change} />
    </Section>
  )
}

export const spectrum: ResultKind<'spectrum'> = {
  title: (p, run) => `Spectrum of ${channelName(run, p.channel)}`,
  Figure,
  Form,
}
