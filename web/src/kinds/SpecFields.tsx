import { Choice } from '../ui/Choice'
import { Numbers, type NumberField } from '../ui/Numbers'

/** A field that takes one of a few values: its name, its label, the values with their words. */
export type ChoiceField = readonly [
  string,
  string,
  readonly (readonly [string | boolean, string])[],
]

interface Props {
  fields: readonly NumberField[]
  choices?: readonly ChoiceField[]
  note?: string
  values: object
  disabled: boolean
  change: (fields: object) => Promise<unknown>
}

/** The numbers of a spec, then its choices, then what a person should know of it. */
export function SpecFields({ fields, choices = [], note, values, disabled, change }: Props) {
  return (
    <>
      <Numbers fields={fields} values={values} disabled={disabled} change={change} />
      {choices.map(([name, label, options]) => (
        <Choice
          key={name}
          label={label}
          value={String((values as Record<string, unknown>)[name])}
          options={options.map(([to, words]) => [String(to), words] as const)}
          disabled={disabled}
          onChoose={(to) => change({ [name]: options.find(([one]) => String(one) === to)![0] })}
        />
      ))}
      {note && <p className="py-1.5 text-small leading-4 text-soft">{note}</p>}
    </>
  )
}
