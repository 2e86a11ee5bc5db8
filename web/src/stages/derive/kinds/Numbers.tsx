import type { Parameters } from '../../../api/results'
import { EditableNumber } from '../../../ui/Editable'

/** A number among a recipe's parameters: ``by`` is what one of its unit is in SI. */
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
  parameters: Parameters
  disabled: boolean
  change: (to: Partial<Parameters>) => Promise<void>
}

export function Numbers({ fields, parameters, disabled, change }: Props) {
  const values = parameters as unknown as Record<string, number | null | undefined>
  const save = (name: string, value: number | null) =>
    change({ [name]: value } as unknown as Partial<Parameters>)
  return fields.map(({ name, label, unit, by = 1, decimals, clearable }) => {
    const value = values[name]
    return (
      <EditableNumber
        key={name}
        label={label}
        unit={unit}
        decimals={decimals}
        disabled={disabled}
        value={value == null ? null : value / by}
        onSave={(typed) => save(name, typed * by)}
        onClear={clearable ? () => save(name, null) : undefined}
      />
    )
  })
}
