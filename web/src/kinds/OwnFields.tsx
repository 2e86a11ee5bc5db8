import type { Readable } from '../readable'
import { formOf, type Forms } from './form'
import { SpecFields } from './SpecFields'

interface Props<S extends { kind?: string }> {
  forms: Forms<S>
  spec: S
  channels: readonly Readable[]
  disabled: boolean
  onSave: (spec: S) => Promise<unknown>
}

/** The fields that the kind of a spec has. */
export function OwnFields<S extends { kind?: string }>(props: Props<S>) {
  const { forms, spec, disabled, onSave } = props
  const { Fields, fields, choices } = formOf(forms, spec.kind!)
  if (Fields) return <Fields {...props} />
  return (
    <SpecFields
      fields={fields}
      choices={choices}
      values={spec}
      disabled={disabled}
      change={(field) => onSave({ ...spec, ...field })}
    />
  )
}
