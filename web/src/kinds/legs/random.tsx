import { EditableText } from '../../ui/Editable'
import { parseNumber } from '../../ui/format'
import { newton, type FieldsProps, type Form, type Leg } from '../form'
import { SpecFields } from '../SpecFields'

type Random = Extract<Leg, { kind?: 'random' }>
type Point = Random['spectrum'][number]

const FIELDS = [
  newton('mean_n', 'About'),
  { name: 'seconds_s', label: 'For', unit: 's', decimals: 0 },
  { name: 'seed', label: 'Seed', decimals: 0 },
]

export const random: Form<Random> = {
  label: 'Random, by a spectrum',
  fields: FIELDS,
  several: true,
  seed: () => ({
    kind: 'random',
    mean_n: 500,
    spectrum: [
      { hz: 0.5, density: 10_000 },
      { hz: 5, density: 10_000 },
    ],
    seconds_s: 60,
    seed: 1,
  }),
  Fields: RandomFields,
}

function RandomFields({ spec, disabled, onSave }: FieldsProps<Random>) {
  return (
    <>
      <SpecFields
        fields={FIELDS}
        values={spec}
        disabled={disabled}
        change={(field) => onSave({ ...spec, ...field })}
      />
      <EditableText
        label="Hz: N²/Hz"
        value={spec.spectrum.map(said).join('; ')}
        disabled={disabled}
        onSave={(text) => onSave({ ...spec, spectrum: read(text) })}
      />
    </>
  )
}

const said = ({ hz, density }: Point): string => `${hz}: ${density}`

/** What is no number is for the server to refuse. */
const read = (text: string): Point[] =>
  text
    .split(';')
    .map((part) => part.split(':').map((one) => parseNumber(one) ?? NaN))
    .map(([hz = NaN, density = NaN]) => ({ hz, density }))
