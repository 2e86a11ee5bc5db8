import { useCallback, useMemo, useState } from 'react'
import type uPlot from 'uplot'

import type { Schemas } from '../../../api/client'
import { Plot } from '../../../plots/Plot'
import { TimeCursor } from '../../../plots/TimeCursor'
import { EditableText } from '../../../ui/Editable'
import { Fact, Section } from '../../../ui/Fact'
import { figure, parseNumber } from '../../../ui/format'
import { channelName, type FormProps, type ResultKind, type FigureProps } from '../kind'
import { Numbers } from '../../../ui/Numbers'
import { MohrCircle } from './MohrCircle'

const GRIDS = ['a', 'b', 'c'] as const
const COLOURS = ['--curve-1', '--curve-2', '--curve-3']
const PRINCIPAL = ['--curve-4', '--curve-5']
const MICRO = 1e6
const DEGREES = 180 / Math.PI
type RosetteState = Schemas['RosetteState']

/** Grid and principal strains over time, Mohr's circle and the stresses at the cursor. */
function Figure({ parameters, details, columns }: FigureProps<'rosette'>) {
  const time = columns['time']!
  const [at, setAt] = useState<number | null>(null)
  const place = nearest(time, at ?? details.time_s)
  const drawn = (name: string) => columns[name]![place]!
  // At the highest load it is the result itself: of all samples, not of those that are drawn.
  const of = (name: keyof RosetteState) =>
    (at === null ? details.highest[name] : drawn(name)) ?? NaN
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[1.05fr_1fr] grid-rows-2">
      <Strains
        time={time}
        curves={GRIDS.map((g, i) => [g, COLOURS[i]!, columns[`grid ${g}`]!])}
        name="Grid strain"
        at={time[place]!}
        onPick={setAt}
      />
      <MohrCircle
        grids={GRIDS.map((g, i) => [
          g,
          COLOURS[i]!,
          drawn(`grid ${g}`),
          (parameters.angles_deg![i]! - parameters.angles_deg![0]!) / DEGREES,
        ])}
        first={of('strain_1')}
        second={of('strain_2')}
        angle={of('angle')}
      />
      <Strains
        time={time}
        curves={[
          ['ε1', PRINCIPAL[0]!, columns['strain_1']!],
          ['ε2', PRINCIPAL[1]!, columns['strain_2']!],
        ]}
        name="Principal strain"
        at={time[place]!}
        onPick={setAt}
      />
      <section
        className="grid grid-cols-[1.15fr_1fr] content-center gap-x-4 gap-y-1 border-t border-l border-rule px-6"
        aria-label="At the cursor"
      >
        <p className="col-span-2 pb-2 text-soft">
          at{' '}
          <span className="figure text-ink">
            {figure(at === null ? details.time_s : time[place], 2)}
          </span>{' '}
          s{at === null && ', the highest von Mises stress'}
        </p>
        {(
          [
            ['von Mises', of('von_mises') / 1e6, 1, 'MPa'],
            ['φ from a', of('angle') * DEGREES, 1, '°'],
            ['σ1', of('stress_1') / 1e6, 1, 'MPa'],
            ['σ2', of('stress_2') / 1e6, 1, 'MPa'],
            ['ε1', of('strain_1') * MICRO, 1, 'µm/m'],
            ['ε2', of('strain_2') * MICRO, 1, 'µm/m'],
          ] as const
        ).map(([name, value, decimals, unit]) => (
          <p key={name} className="leading-7 whitespace-nowrap">
            <span className="text-soft">{name}</span>{' '}
            <span className="figure text-head font-number">{figure(value, decimals)}</span>{' '}
            <span className="text-small text-soft">{unit}</span>
          </p>
        ))}
      </section>
    </div>
  )
}

function nearest(times: Float32Array, at: number): number {
  let best = 0
  times.forEach((t, i) => {
    if (Math.abs(t - at) < Math.abs(times[best]! - at)) best = i
  })
  return best
}

const CURSOR_STEPS = 500 // of the arrow keys through a whole run

interface StrainsProps {
  time: Float32Array
  curves: (readonly [string, string, Float32Array])[]
  name: string
  at: number
  onPick: (time: number) => void
}

/** Strains over time, with the cursor that says which instant is shown. */
function Strains({ time, curves, name, at, onPick }: StrainsProps) {
  const columns = useMemo(
    () =>
      [
        Array.from(time),
        ...curves.map(([, , values]) =>
          Array.from(values, (v) => (Number.isFinite(v) ? v * MICRO : null)),
        ),
      ] as uPlot.AlignedData,
    [time, curves],
  )
  const data = useCallback(() => columns, [columns])
  const shape = curves.map(([n, c]) => n + c).join()
  const lines = useMemo(
    () => curves.map(([n, colour]) => ({ name: n, colour })),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the names and colours are its all
    [shape],
  )
  return (
    <div className="flex min-h-0 border-t border-rule first:border-t-0">
      <Plot
        curves={lines}
        data={data}
        xName="Time"
        xUnit="s"
        yName={name}
        yUnit="µm/m"
        nameRoom={3}
        label={`${name} over time`}
        overlay={(plot) => (
          <TimeCursor
            plot={plot}
            at={at}
            last={time[time.length - 1] ?? 1}
            steps={Math.min(CURSOR_STEPS, Math.max(1, time.length - 1))}
            label={`Time of the cursor, ${name}`}
            onPick={onPick}
          />
        )}
      />
    </div>
  )
}

const numbers = (text: string): number[] | null => {
  const found = text
    .split(/[\s/;°]+/)
    .filter(Boolean)
    .map(parseNumber)
  return found.every((n) => n !== null) ? (found as number[]) : null
}

const TRANSVERSE = {
  name: 'transverse',
  label: 'Transverse',
  unit: '%',
  by: 0.01,
  decimals: 2,
}
const MATERIAL = [
  { name: 'modulus_pa', label: 'E', unit: 'GPa', by: 1e9, decimals: 1 },
  { name: 'poisson_ratio', label: 'Poisson ratio', decimals: 3 },
]

function Form({ run, parameters: p, disabled, change }: FormProps<'rosette'>) {
  const form = { values: p, disabled, change }
  return (
    <>
      <Section title="Rosette">
        {p.grids.map((key, i) => (
          <Fact key={key} name={`Grid ${GRIDS[i]}`}>
            {channelName(run, key)}
          </Fact>
        ))}
        <EditableText
          label="Angles"
          unit="°"
          value={p.angles_deg.join('/')}
          disabled={disabled}
          onSave={async (text) => change({ angles_deg: numbers(text) ?? [] })}
        />
        <Numbers fields={[TRANSVERSE]} {...form} />
      </Section>
      <Section title="Material">
        <Numbers fields={MATERIAL} {...form} />
        <Fact name="State">plane stress</Fact>
      </Section>
    </>
  )
}

export const rosette: ResultKind<'rosette'> = { title: (p) => `Rosette ${p.name}`, Figure, Form }
