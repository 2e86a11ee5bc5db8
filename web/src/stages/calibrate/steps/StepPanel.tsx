import { ProblemError, type Channel, type Setup } from '../../../api/client'
import { SpecFields } from '../../../kinds/SpecFields'
import { stepForm, type Step } from '../../../kinds/steps'
import { Button } from '../../../ui/Button'
import { Choice } from '../../../ui/Choice'
import { EditableText } from '../../../ui/Editable'
import { Toggle } from '../../../ui/Toggle'
import { parseNumber } from '../../../ui/format'
import { FilterPlots } from './FilterPlots'

interface Props {
  setup: Setup
  channel: Channel
  step: Step
  disabled: boolean
  onSave: (step: Step) => Promise<unknown>
  onRemove: () => void
}

/** One step as it is set; of a filter what it does, drawn. */
export function StepPanel({ setup, channel, step, disabled, onSave, onRemove }: Props) {
  const form = stepForm(step.kind!)
  const put = (fields: object) => onSave({ ...step, ...fields } as Step)
  return (
    <div className="grid min-h-0 flex-1 content-start overflow-auto @lg:grid-cols-[230px_1fr] @lg:content-stretch">
      <div className="px-3 py-2 @lg:overflow-auto">
        <label className="flex items-center gap-2 pb-1 text-small">
          <Toggle
            label={`${form?.label ?? step.kind} on`}
            on={step.on}
            disabled={disabled}
            onChange={(on) => void put({ on })}
          />
          <b className="font-strong">{form?.label ?? step.kind}</b>
        </label>
        {form && <SpecFields {...form} values={step} disabled={disabled} change={put} />}
        {'temperature' in step && (
          <Choice
            label="Temperature by"
            value={step.temperature}
            options={setup.channels
              .filter((c) => c.quantity === 'temperature')
              .map((c) => [c.key, c.name] as const)}
            disabled={disabled}
            onChoose={(temperature) => put({ temperature })}
          />
        )}
        {'coefficients' in step && (
          <EditableText
            label="µm/m: a₀; a₁; a₂ …"
            numeric
            value={step.coefficients.map((c) => +(c * 1e6).toPrecision(6)).join('; ')}
            disabled={disabled}
            onSave={(text) => put({ coefficients: read(text) })}
          />
        )}
        {!disabled && (
          <div className="pt-1">
            <Button size={24} onClick={onRemove}>
              Remove
            </Button>
          </div>
        )}
      </div>
      {form?.isFilter && <FilterPlots setup={setup} channel={channel} step={step} />}
    </div>
  )
}

/** Coefficients as they are typed, in µm/m over °C, the constant first. */
function read(text: string): number[] {
  const numbers = text.split(/[;\s]+/).filter(Boolean).map(parseNumber) // prettier-ignore
  if (!numbers.length || numbers.includes(null))
    throw new ProblemError({
      title: 'Coefficients are numbers.',
      hint: 'Write them with semicolons between, the constant first.',
      status: 422,
    })
  return numbers.map((n) => n! * 1e-6)
}
