import type { Readable } from '../readable'
import { Choice } from '../ui/Choice'
import { formOf, kindsOf, type Forms } from './form'
import { OwnFields } from './OwnFields'

interface Props<S extends { kind?: string }> {
  label: string
  forms: Forms<S>
  spec: S
  channels?: readonly Readable[]
  disabled: boolean
  onSave: (spec: S) => Promise<unknown>
}

/** Something of one of several kinds: which kind, then the fields that this kind has. */
export function SpecForm<S extends { kind?: string }>(props: Props<S>) {
  const { label, forms, spec, channels = [], disabled, onSave } = props
  const kind = spec.kind!
  return (
    <>
      <Choice
        label={label}
        value={kind}
        options={kindsOf(forms)}
        disabled={disabled}
        onChoose={(to) => onSave(formOf(forms, to).seed(channels)!)}
      />
      <OwnFields {...{ forms, spec, channels, disabled, onSave }} />
    </>
  )
}
