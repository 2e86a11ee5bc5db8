import { EditableText } from '../../ui/Editable'
import type { FieldsProps, Form, Leg } from '../form'

type Wait = Extract<Leg, { kind?: 'wait' }>

function WaitFields({ spec, disabled, onSave }: FieldsProps<Wait>) {
  return (
    <EditableText
      label="Until somebody has"
      value={spec.text}
      disabled={disabled}
      onSave={(text) => onSave({ ...spec, text })}
    />
  )
}

export const wait: Form<Wait> = {
  label: 'Wait for a person',
  fields: [],
  several: true,
  seed: () => ({ kind: 'wait', text: 'turned the specimen' }),
  Fields: WaitFields,
}
