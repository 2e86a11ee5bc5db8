import { fullScale } from '../../readable'
import { ChannelNumbers } from '../ChannelNumbers'
import { mm, type FieldsProps, type Form, type Leg } from '../form'
import { SpecFields } from '../SpecFields'

type ToReading = Extract<Leg, { kind?: 'to_reading' }>

const FIGURES = [{ name: 'value', label: 'Until it reads' }] as const
const WAY = [
  { name: 'speed_m_s', label: 'Speed', unit: 'mm/s', by: 1e-3, decimals: 3 },
  mm('travel_m', 'At most to'),
]

export const toReading: Form<ToReading> = {
  label: 'Until a channel reads',
  fields: [],
  several: true,
  seed: ([first]) =>
    first
      ? {
          kind: 'to_reading',
          channel: first.key,
          value: (first.measured ? fullScale(first.measured) : 1) / 10,
          speed_m_s: 1e-4,
          travel_m: 5e-3,
        }
      : null,
  Fields: (props: FieldsProps<ToReading>) => (
    <>
      <ChannelNumbers {...props} figures={FIGURES} />
      <SpecFields
        fields={WAY}
        values={props.spec}
        disabled={props.disabled}
        change={(field) => props.onSave({ ...props.spec, ...field })}
      />
    </>
  ),
}
