import { Choice } from '../../ui/Choice'
import type { FieldsProps, Form } from '../form'
import { SpecFields } from '../SpecFields'
import type { Stretch } from '.'

type Rising = Extract<Stretch, { kind?: 'rising' }>

const SHARES = [
  { name: 'from_share', label: 'From', unit: '% of its highest', by: 0.01, decimals: 0 },
  { name: 'to_share', label: 'To', unit: '% of its highest', by: 0.01, decimals: 0 },
]

export const rising: Form<Rising> = {
  label: 'while a channel rises',
  fields: SHARES,
  seed: ([first]) =>
    first ? { kind: 'rising', lead: first.key, from_share: 0.1, to_share: 0.4 } : null,
  Fields: ({ spec, channels, disabled, onSave }: FieldsProps<Rising>) => (
    <>
      <Choice
        label="Which"
        value={spec.lead}
        options={channels.map((c) => [c.key, c.name] as const)}
        disabled={disabled}
        onChoose={(lead) => onSave({ ...spec, lead })}
      />
      <SpecFields
        fields={SHARES}
        values={spec}
        disabled={disabled}
        change={(field) => onSave({ ...spec, ...field })}
      />
    </>
  ),
}
