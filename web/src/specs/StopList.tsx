import type { Channel } from '../api/client'
import { fromSi, toSi } from '../ui/units'
import { Choice } from '../ui/Choice'
import { EditableNumber } from '../ui/Editable'
import { Icon } from '../ui/Icon'
import { attempt } from '../ui/notices'
import { Numbers } from '../ui/Numbers'
import { kindsOf, STOPS, type Stop } from './forms'

interface Props {
  stops: readonly Stop[]
  channels: readonly Channel[]
  disabled: boolean
  onSave: (stops: Stop[]) => Promise<unknown>
}

/** What ends a run by itself, one thing below the other; by hand it ends always. */
export function StopList({ stops, channels, disabled, onSave }: Props) {
  const put = (at: number, stop: Stop) => onSave(stops.map((s, i) => (i === at ? stop : s)))
  const add = (kind: NonNullable<Stop['kind']>) => {
    const seed = STOPS[kind].seed
    return onSave([...stops, seed.kind === 'limit' ? { ...seed, channel: channels[0]!.key } : seed])
  }
  const unused = kindsOf(STOPS).filter(
    ([kind]) => (kind === 'limit' && channels.length) || !stops.some((s) => s.kind === kind),
  )
  return (
    <>
      {stops.map((stop, i) => (
        <div key={i} className="border-t border-rule pt-1 first-of-type:border-t-0">
          <div className="flex items-center text-[12px]">
            <b className="font-[620]">{STOPS[stop.kind!].label}</b>
            {!disabled && (
              <button
                type="button"
                aria-label={`Take out: ${STOPS[stop.kind!].label}`}
                className="ml-auto p-1 text-soft hover:text-ink"
                onClick={() => void attempt(onSave(stops.filter((_, at) => at !== i)))}
              >
                <Icon name="cross" size={12} />
              </button>
            )}
          </div>
          {stop.kind === 'limit' ? (
            <LimitFields
              limit={stop}
              channels={channels}
              disabled={disabled}
              onSave={(to) => put(i, to)}
            />
          ) : (
            <Numbers
              fields={STOPS[stop.kind!].fields}
              values={stop}
              disabled={disabled}
              change={(field) => put(i, { ...stop, ...field } as Stop)}
            />
          )}
        </div>
      ))}
      {!disabled && unused.length > 0 && (
        <Choice
          label="Ends also by"
          value=""
          options={[['', 'choose…'], ...unused]}
          onChoose={(kind) => (kind ? add(kind) : Promise.resolve())}
        />
      )}
    </>
  )
}

type Limit = Extract<Stop, { kind?: 'limit' }>

function LimitFields(props: {
  limit: Limit
  channels: readonly Channel[]
  disabled: boolean
  onSave: (limit: Limit) => Promise<unknown>
}) {
  const { limit, channels, disabled, onSave } = props
  const channel = channels.find((c) => c.key === limit.channel)
  const unit = channel?.unit ?? ''
  const gone: [string, string][] = channel ? [] : [[limit.channel, 'no longer wired']]
  return (
    <>
      <Choice
        label="Channel"
        value={limit.channel}
        options={[...gone, ...channels.map((c) => [c.key, c.name] as const)]}
        disabled={disabled}
        onChoose={(key) => onSave({ ...limit, channel: key, lowest: null, highest: null })}
      />
      {(['lowest', 'highest'] as const).map((end) => (
        <EditableNumber
          key={end}
          label={end === 'lowest' ? 'Not below' : 'Not above'}
          value={limit[end] == null ? null : fromSi(limit[end], unit)}
          unit={unit}
          decimals={channel?.decimals ?? 3}
          disabled={disabled}
          onSave={(v) => onSave({ ...limit, [end]: toSi(v, unit) })}
          onClear={() => onSave({ ...limit, [end]: null })}
        />
      ))}
    </>
  )
}
