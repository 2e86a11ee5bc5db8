import { Fact, Section } from '../../../ui/Fact'
import { toSi } from '../../../ui/units'
import { channelName, type FormProps, type ResultKind, type FigureProps } from '../kind'
import { Numbers, type NumberField } from '../../../ui/Numbers'
import { LifeCurve } from './LifeCurve'
import { Matrix } from './Matrix'
import { TurningPoints } from './TurningPoints'

/** Turning points, the range-mean matrix, and the curve that says what cycles cost. */
function Figure({ details, columns }: FigureProps<'cycles'>) {
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[1.1fr_1fr] grid-rows-[1fr_1.6fr]">
      <div className="col-span-2 flex min-h-0 border-b border-rule">
        <TurningPoints points={columns['points']!} details={details} />
      </div>
      <Matrix details={details} />
      {details.stress_by_unit ? (
        <LifeCurve details={details} />
      ) : (
        <p className="border-l border-rule p-4 text-soft">
          Give the section that the force acts on, at the right: then stress, damage and life come
          of the cycles.
        </p>
      )}
    </div>
  )
}

/** How stress comes of what is counted. */
const STRESS: Record<string, NumberField> = {
  strain: { name: 'modulus_pa', label: 'Stress by E', unit: 'GPa', by: 1e9, decimals: 1 },
  force: {
    name: 'section_m2',
    label: 'Stress by section',
    unit: 'mm²',
    by: 1e-6,
    decimals: 2,
    clearable: true,
  },
}
const CURVE: readonly NumberField[] = [
  { name: 'curve_strength_pa', label: "Curve's strength", unit: 'MPa', by: 1e6, decimals: 0 },
  { name: 'curve_exponent', label: "Curve's exponent", decimals: 3 },
  {
    name: 'tensile_strength_pa',
    label: 'Goodman, with Rm',
    unit: 'MPa',
    by: 1e6,
    decimals: 0,
    clearable: true,
  },
]

function Form({ run, parameters: p, disabled, change }: FormProps<'cycles'>) {
  const form = { values: p, disabled, change }
  const channel = run.channels.find((c) => c.key === p.channel)
  const unit = channel?.unit ?? ''
  return (
    <>
      <Section title="Counting">
        <Fact name="Channel">{channelName(run, p.channel)}</Fact>
        <Fact name="Rule">rainflow, ASTM E1049</Fact>
        <Fact name="Leftovers">as half cycles</Fact>
        <Numbers
          fields={[{ name: 'gate', label: 'Ignore up to', unit, by: toSi(1, unit), decimals: 2 }]}
          {...form}
        />
      </Section>
      <Section title="Damage">
        <Numbers fields={[STRESS[channel?.quantity ?? ''] ?? [], CURVE].flat()} {...form} />
        <Fact name="Sum">Miner, to 1.0</Fact>
      </Section>
    </>
  )
}

export const cycles: ResultKind<'cycles'> = {
  title: (p, run) => `Cycles of ${channelName(run, p.channel)}`,
  Figure,
  Form,
}
