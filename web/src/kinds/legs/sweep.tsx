import { Choice } from '../../ui/Choice'
import { SpecFields } from '../SpecFields'
import { newton, type FieldsProps, type Form, type Leg } from '../form'

type Sweep = Extract<Leg, { kind?: 'sweep' }>

const WAYS = [
  ['there', 'there only'],
  ['back', 'there and back'],
] as const
const seconds = (name: string, label: string) => ({ name, label, unit: 's', decimals: 1 })
const FIELDS = [
  newton('from_n', 'From'),
  newton('to_n', 'To'),
  { name: 'steps', label: 'Steps', decimals: 0, unit: '' },
  { ...newton('rate_n_s', 'At'), unit: 'N/s' },
  seconds('settle_s', 'Settles for'),
  seconds('average_s', 'Then averaged for'),
]

export const sweep: Form<Sweep> = {
  label: 'In steps',
  fields: FIELDS,
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
  Fields: ({ spec, disabled, onSave }: FieldsProps<Sweep>) => (
    <>
      <SpecFields
        fields={FIELDS}
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
  ),
}
