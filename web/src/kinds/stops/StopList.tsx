import type { Readable } from '../../readable'
import { Choice } from '../../ui/Choice'
import { Icon } from '../../ui/Icon'
import { attempt } from '../../ui/notices'
import { Numbers } from '../../ui/Numbers'
import { formOf, kindsOf, type Stop } from '../form'
import { STOPS } from '.'

interface Props {
  stops: readonly Stop[]
  channels: readonly Readable[]
  disabled: boolean
  onSave: (stops: Stop[]) => Promise<unknown>
}

/** What ends a run by itself, one thing below the other; by hand it ends always. */
export function StopList({ stops, channels, disabled, onSave }: Props) {
  const put = (at: number, stop: Stop) => onSave(stops.map((s, i) => (i === at ? stop : s)))
  const add = (kind: string) => {
    const seed = formOf(STOPS, kind).seed(channels)
    return seed ? onSave([...stops, seed]) : Promise.resolve()
  }
  const offered = kindsOf(STOPS).filter(([kind]) => {
    const form = formOf(STOPS, kind)
    return form.seed(channels) && (form.several || !stops.some((s) => s.kind === kind))
  })
  return (
    <>
      {stops.map((stop, i) => (
        <div key={i} className="border-t border-rule pt-1 first-of-type:border-t-0">
          <div className="flex items-center text-small">
            <b className="font-strong">{formOf(STOPS, stop.kind!).label}</b>
            {!disabled && (
              <button
                type="button"
                aria-label={`Take out: ${formOf(STOPS, stop.kind!).label}`}
                className="ml-auto p-1 text-soft hover:text-ink"
                onClick={() => void attempt(onSave(stops.filter((_, at) => at !== i)))}
              >
                <Icon name="cross" size={12} />
              </button>
            )}
          </div>
          <StopFields
            stop={stop}
            channels={channels}
            disabled={disabled}
            onSave={(to) => put(i, to)}
          />
        </div>
      ))}
      {!disabled && offered.length > 0 && (
        <Choice
          label="Ends also by"
          value=""
          options={[['', 'choose…'], ...offered]}
          onChoose={(kind) => (kind ? add(kind) : Promise.resolve())}
        />
      )}
    </>
  )
}

function StopFields(props: {
  stop: Stop
  channels: readonly Readable[]
  disabled: boolean
  onSave: (stop: Stop) => Promise<unknown>
}) {
  const { stop, disabled, onSave } = props
  const { Fields, fields } = formOf(STOPS, stop.kind!)
  if (Fields) return <Fields {...props} spec={stop} />
  return (
    <Numbers
      fields={fields}
      values={stop}
      disabled={disabled}
      change={(field) => onSave({ ...stop, ...field } as Stop)}
    />
  )
}
