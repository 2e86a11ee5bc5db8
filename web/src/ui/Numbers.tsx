import { EditableNumber } from './Editable'

/** A number among the fields of something: ``by`` is what one of its unit is in SI. */
export interface NumberField {
  name: string
  label: string
  unit?: string
  by?: number
  decimals: number
  clearable?: boolean
}

interface Props {
  fields: readonly NumberField[]
  values: object
  disabled: boolean
  /** One field with its new value, in SI; null clears it. */
  change: (field: Record<string, number | null>) => Promise<unknown>
}

export function Numbers({ fields, values, disabled, change }: Props) {
  const known = values as Record<string, number | null | undefined>
  return fields.map(({ name, label, unit, by = 1, decimals, clearable }) => {
    const value = known[name]
    return (
      <EditableNumber
        key={name}
        label={label}
        unit={unit}
        decimals={decimals}
        disabled={disabled}
        value={value == null ? null : value / by}
        onSave={(typed) => change({ [name]: typed * by })}
        onClear={clearable ? () => change({ [name]: null }) : undefined}
      />
    )
  })
}
