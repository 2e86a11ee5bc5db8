import { EditableNumber } from '../../../../ui/Editable'
import { Fact, Section } from '../../../../ui/Fact'
import { fromSi, toSi } from '../../../../ui/units'
import { channelName, type FormProps, type Kind, type PictureProps } from '../kind'
import { LifeCurve } from './LifeCurve'
import { Matrix } from './Matrix'
import { TurningPoints } from './TurningPoints'

/** Turning points, the range-mean matrix, and the curve that says what cycles cost. */
function Picture({ details, columns }: PictureProps<'cycles'>) {
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

function Form({ run, parameters: p, disabled, change }: FormProps<'cycles'>) {
  const channel = run.channels.find((c) => c.key === p.channel)
  const unit = channel?.unit ?? ''
  return (
    <>
      <Section title="Counting">
        <Fact name="Channel">{channelName(run, p.channel)}</Fact>
        <Fact name="Rule">rainflow, ASTM E1049</Fact>
        <Fact name="Leftovers">as half cycles</Fact>
        <EditableNumber
          label="Ignore up to"
          value={fromSi(p.gate, unit)}
          decimals={2}
          unit={unit}
          disabled={disabled}
          onSave={(v) => change({ gate: toSi(v, unit) })}
        />
      </Section>
      <Section title="Damage">
        {channel?.quantity === 'strain' && (
          <EditableNumber
            label="Stress by E"
            value={p.modulus_pa / 1e9}
            decimals={1}
            unit="GPa"
            disabled={disabled}
            onSave={(v) => change({ modulus_pa: v * 1e9 })}
          />
        )}
        {channel?.quantity === 'force' && (
          <EditableNumber
            label="Stress by section"
            value={p.section_m2 == null ? null : p.section_m2 * 1e6}
            decimals={2}
            unit="mm²"
            disabled={disabled}
            onSave={(v) => change({ section_m2: v * 1e-6 })}
            onClear={() => change({ section_m2: null })}
          />
        )}
        <EditableNumber
          label="Curve's strength"
          value={p.curve_strength_pa / 1e6}
          decimals={0}
          unit="MPa"
          disabled={disabled}
          onSave={(v) => change({ curve_strength_pa: v * 1e6 })}
        />
        <EditableNumber
          label="Curve's exponent"
          value={p.curve_exponent}
          decimals={3}
          disabled={disabled}
          onSave={(curve_exponent) => change({ curve_exponent })}
        />
        <EditableNumber
          label="Goodman, with Rm"
          value={p.tensile_strength_pa == null ? null : p.tensile_strength_pa / 1e6}
          decimals={0}
          unit="MPa"
          disabled={disabled}
          onSave={(v) => change({ tensile_strength_pa: v * 1e6 })}
          onClear={() => change({ tensile_strength_pa: null })}
        />
        <Fact name="Sum">Miner, to 1.0</Fact>
      </Section>
    </>
  )
}

export const cycles: Kind<'cycles'> = {
  title: (p, run) => `Cycles of ${channelName(run, p.channel)}`,
  Picture,
  Form,
}
