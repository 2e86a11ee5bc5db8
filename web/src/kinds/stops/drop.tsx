import { fullScale } from '../../readable'
import { ChannelNumbers } from '../ChannelNumbers'
import type { FieldsProps, Form, Stop } from '../form'
import { SpecFields } from '../SpecFields'

type Drop = Extract<Stop, { kind?: 'drop' }>

const FIGURES = [{ name: 'arm', label: 'Once beyond', span: true }] as const
const SHARE = [{ name: 'share', label: 'By', unit: '%', by: 0.01, decimals: 0 }]

export const drop: Form<Drop> = {
  label: 'A channel falls',
  fields: [],
  several: true,
  seed: ([first]) =>
    first
      ? {
          kind: 'drop',
          channel: first.key,
          share: 0.2,
          arm: (first.measured ? fullScale(first.measured) : 1) / 10,
        }
      : null,
  Fields: (props: FieldsProps<Drop>) => (
    <>
      <ChannelNumbers {...props} figures={FIGURES} />
      <SpecFields
        fields={SHARE}
        values={props.spec}
        disabled={props.disabled}
        change={(field) => props.onSave({ ...props.spec, ...field })}
      />
    </>
  ),
}
