import { EditableText } from '../../ui/Editable'
import { ProblemError } from '../../api/client'
import type { FieldsProps, Form, Trigger } from '../form'

type AtTime = Extract<Trigger, { kind?: 'at_time' }>

const HOUR = 3_600_000 // ms

export const atTime: Form<AtTime> = {
  label: 'At a time of day',
  fields: [],
  seed: () => ({ kind: 'at_time', moment: new Date(nextHour()).toISOString() }),
  Fields: ({ spec, disabled, onSave }: FieldsProps<AtTime>) => (
    <EditableText
      label="On"
      value={localOf(spec.moment)}
      numeric
      disabled={disabled}
      onSave={(text) => onSave({ ...spec, moment: momentOf(text) })}
    />
  ),
}

const nextHour = () => Math.ceil(Date.now() / HOUR) * HOUR
const two = (n: number) => String(n).padStart(2, '0')

/** As clocks show it where the screen is. */
export function localOf(iso: string): string {
  const at = new Date(iso)
  const day = `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`
  return `${day} ${two(at.getHours())}:${two(at.getMinutes())}`
}

/** What a person wrote; throws where that is no moment. */
export function momentOf(text: string): string {
  const at = new Date(text.trim().replace(' ', 'T'))
  if (!/^\d{4}-\d\d-\d\d \d\d:\d\d$/.test(text.trim()) || Number.isNaN(at.getTime()))
    throw new ProblemError({
      status: 422,
      title: 'This is no date with a time.',
      hint: 'Write it as 2026-12-04 18:00.',
    })
  return at.toISOString()
}
