import { changeSetup } from '../../api/actions'
import type { Setup } from '../../api/client'
import { EditableText } from '../../ui/Editable'
import { Section } from '../../ui/Fact'
import { Icon } from '../../ui/Icon'
import { attempt } from '../../ui/notices'

/** Names as they are typed, with semicolons between them. */
export const namesOf = (text: string): string[] =>
  text
    .split(';')
    .map((name) => name.trim())
    .filter(Boolean)

/** The specimens of the batch in their order: done, the present one, and those to come. */
export function Batch({ setup, disabled }: { setup: Setup; disabled: boolean }) {
  const { batch } = setup
  const left = batch.filter((b) => !b.is_done).length
  return (
    <Section title={batch.length ? `Batch, ${left} of ${batch.length} to come` : 'Batch'}>
      <ol aria-label="Batch" className="max-h-40 overflow-y-auto">
        {batch.map(({ specimen, is_done }) => {
          const here = specimen === setup.specimen
          return (
            <li key={specimen} className={`text-small ${here ? 'bg-marking-wash' : ''}`}>
              <button
                type="button"
                disabled={disabled || here}
                aria-current={here || undefined}
                className="flex min-h-6 w-full items-center gap-2 text-left"
                onClick={() => void attempt(changeSetup(setup.id, { specimen }))}
              >
                <span aria-hidden className="w-4 text-moss">
                  {is_done && <Icon name="tick" size={12} />}
                </span>
                <span className={here ? 'font-strong' : is_done ? 'text-soft' : ''}>
                  {specimen}
                </span>
                <span className="ml-auto text-soft">
                  {here ? 'on the bench' : is_done ? 'done' : ''}
                </span>
              </button>
            </li>
          )
        })}
      </ol>
      <EditableText
        label="Specimens"
        value={batch.map((b) => b.specimen).join('; ')}
        disabled={disabled}
        onSave={(text) => changeSetup(setup.id, { batch: namesOf(text) })}
      />
    </Section>
  )
}
