import { readForces } from '../../api/programmes'
import { FileButton } from '../../ui/FileButton'
import { attempt } from '../../ui/notices'
import type { FieldsProps, Form, Leg } from '../form'
import { SpecFields } from '../SpecFields'

type History = Extract<Leg, { kind?: 'history' }>

const FIELDS = [
  { name: 'rate_hz', label: 'Forces per second', unit: 'Hz', decimals: 2 },
  { name: 'times', label: 'Times', decimals: 0 },
]

export const history: Form<History> = {
  label: 'History from a file',
  fields: FIELDS,
  several: true,
  seed: () => ({ kind: 'history', forces_n: [0, 100, 0], rate_hz: 1, times: 1, source: '' }),
  Fields: HistoryFields,
}

function HistoryFields({ spec, disabled, onSave }: FieldsProps<History>) {
  const take = async (file: File) => {
    const found = await attempt(readForces(await file.text()))
    if (found) await attempt(onSave({ ...spec, ...found, source: file.name.slice(0, 120) }))
  }
  return (
    <>
      <p className="py-1 text-small text-soft">
        {spec.source || 'No file yet'}, {spec.forces_n.length} forces
      </p>
      <SpecFields
        fields={FIELDS}
        values={spec}
        disabled={disabled}
        change={(field) => onSave({ ...spec, ...field })}
      />
      {!disabled && (
        <FileButton accept=".csv,.txt,text/plain,text/csv" onFile={take}>
          Read time (s); force (kN)
        </FileButton>
      )}
    </>
  )
}
