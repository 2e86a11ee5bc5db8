import { fullScale } from '../../readable'
import { ChannelNumbers } from '../ChannelNumbers'
import type { FieldsProps, Form, Leg } from '../form'
import { SpecFields } from '../SpecFields'

type Settle = Extract<Leg, { kind?: 'settle' }>

const FIGURES = [{ name: 'within', label: 'Within', span: true }] as const
const TIMES = [
  { name: 'for_s', label: 'For', unit: 's', decimals: 1 },
  { name: 'at_most_s', label: 'At most', unit: 's', decimals: 0 },
]

export const settle: Form<Settle> = {
  label: 'Hold until settled',
  fields: [],
  several: true,
  seed: ([first]) =>
    first
      ? {
          kind: 'settle',
          channel: first.key,
          within: (first.measured ? fullScale(first.measured) : 1) / 1000,
          for_s: 5,
          at_most_s: 600,
        }
      : null,
  Fields: (props: FieldsProps<Settle>) => (
    <>
      <ChannelNumbers {...props} figures={FIGURES} />
      <SpecFields
        fields={TIMES}
        values={props.spec}
        disabled={props.disabled}
        change={(field) => props.onSave({ ...props.spec, ...field })}
      />
    </>
  ),
}
