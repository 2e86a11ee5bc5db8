import { EditableNumber } from '../../ui/Editable'
import { figure } from '../../ui/format'
import type { FieldsProps, Form, KeepRule } from '../form'
import { LegsField, legsSaid } from './legs'

type Everything = Extract<KeepRule, { kind?: 'everything' }>

export const everything: Form<Everything> = {
  label: 'Everything',
  fields: [],
  several: true,
  seed: () => ({ kind: 'everything', rate_hz: null, legs: [] }),
  says: ({ rate_hz, legs }) =>
    legsSaid(legs) + (rate_hz ? `at ${figure(rate_hz, rate_hz < 1 ? 2 : 0)} Hz` : 'each sample'),
  Fields: ({ spec, disabled, onSave }: FieldsProps<Everything>) => (
    <>
      <EditableNumber
        label="At least"
        value={spec.rate_hz ?? null}
        unit="Hz"
        decimals={spec.rate_hz && spec.rate_hz < 1 ? 2 : 0}
        disabled={disabled}
        onSave={(rate_hz) => onSave({ ...spec, rate_hz })}
        onClear={() => onSave({ ...spec, rate_hz: null })}
      />
      <LegsField
        legs={spec.legs ?? []}
        disabled={disabled}
        onSave={(legs) => onSave({ ...spec, legs })}
      />
    </>
  ),
}
