import { Choice } from '../../ui/Choice'
import type { NumberField } from '../../ui/Numbers'
import { SpecFields } from '../SpecFields'
import { mm, newton, type FieldsProps, type Form, type Leg } from '../form'

type Stepped<K> = Extract<Leg, { kind?: K }>
type Sweep = Stepped<'sweep'>
type TravelSweep = Stepped<'travel_sweep'>

const WAYS = [
  ['there', 'there only'],
  ['back', 'there and back'],
] as const
const seconds = (name: string, label: string) => ({ name, label, unit: 's', decimals: 1 })
const AVERAGED = [seconds('settle_s', 'Settles for'), seconds('average_s', 'Then averaged for')]
const STEPS = { name: 'steps', label: 'Steps', decimals: 0, unit: '' }
const OF_FORCE = [
  newton('from_n', 'From'),
  newton('to_n', 'To'),
  STEPS,
  { ...newton('rate_n_s', 'At'), unit: 'N/s' },
  ...AVERAGED,
]
const OF_TRAVEL = [
  mm('from_m', 'From'),
  mm('to_m', 'To'),
  STEPS,
  { name: 'speed_m_s', label: 'At', unit: 'mm/s', by: 1e-3, decimals: 3 },
  ...AVERAGED,
]

export const sweep: Form<Sweep> = {
  label: 'In steps of force',
  fields: OF_FORCE,
  several: true,
  averages: true,
  seed: () => ({
    kind: 'sweep',
    from_n: 0,
    to_n: 1000,
    steps: 6,
    rate_n_s: 200,
    settle_s: 2,
    average_s: 1,
    back: true,
  }),
  Fields: (props: FieldsProps<Sweep>) => <SteppedFields {...props} fields={OF_FORCE} />,
}

export const travelSweep: Form<TravelSweep> = {
  label: 'In steps of travel',
  fields: OF_TRAVEL,
  several: true,
  averages: true,
  seed: () => ({
    kind: 'travel_sweep',
    from_m: 0,
    to_m: 1e-3,
    steps: 6,
    speed_m_s: 1e-4,
    settle_s: 2,
    average_s: 1,
    back: true,
  }),
  Fields: (props: FieldsProps<TravelSweep>) => <SteppedFields {...props} fields={OF_TRAVEL} />,
}

function SteppedFields<S extends Sweep | TravelSweep>(
  props: FieldsProps<S> & { fields: readonly NumberField[] },
) {
  const { spec, disabled, onSave, fields } = props
  return (
    <>
      <SpecFields
        fields={fields}
        values={spec}
        disabled={disabled}
        change={(field) => onSave({ ...spec, ...field })}
      />
      <Choice
        label="Way"
        value={spec.back ? 'back' : 'there'}
        options={WAYS}
        disabled={disabled}
        onChoose={(way) => onSave({ ...spec, back: way === 'back' })}
      />
    </>
  )
}
