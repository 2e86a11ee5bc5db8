import type { SensorKind } from '../api/library'
import type { Schemas } from '../api/client'
import { Icon, type IconName } from '../ui/Icon'
import { STATUSES, type Status } from './status'
import { row } from '../ui/row'

export interface Wanted {
  by: 'all' | 'kind' | 'status' | 'where'
  value: string
}

interface Props {
  counts: Schemas['LibraryCounts'] | undefined
  kinds: readonly SensorKind[]
  wanted: Wanted
  onWant: (wanted: Wanted) => void
}

const SIGNS: Partial<Record<Status, readonly [IconName, string]>> = {
  overdue: ['cross', 'text-signal'],
  soon: ['warn', 'text-marking-ink'],
  'in force': ['tick', 'text-moss'],
}

/** What to look at: a kind of sensor, how its certificate stands, or where it is. */
export function KindList({ counts, kinds, wanted, onWant }: Props) {
  const line = (by: Wanted['by'], value: string, words: string, count: number, sign?: Status) => {
    const chosen = wanted.by === by && wanted.value === value
    const look = sign && SIGNS[sign]
    return (
      <li key={`${by} ${value}`}>
        <button
          type="button"
          aria-pressed={chosen}
          onClick={() => onWant({ by, value })}
          className={row({
            chosen,
            className: 'flex h-6.5 w-full items-center gap-2 px-4 text-left',
          })}
        >
          {by === 'status' && (
            <span className={`w-4 ${look?.[1] ?? ''}`}>
              {look && <Icon name={look[0]} size={13} />}
            </span>
          )}
          <span className="first-letter:uppercase">{words}</span>
          <span className={`figure ml-auto ${count && look ? look[1] : 'text-soft'}`}>{count}</span>
        </button>
      </li>
    )
  }
  return (
    <section className="col overflow-y-auto" aria-label="Filter">
      <div className="bar">
        <h1>Library</h1>
      </div>
      <ul className="py-1">{line('all', '', 'Everything', counts?.all ?? 0)}</ul>
      <h3 className="border-t border-rule px-4 pt-2.5">Kinds</h3>
      <ul className="py-1">
        {kinds.map((k) => line('kind', k.name, k.name, counts?.kind[k.name] ?? 0))}
      </ul>
      <h3 className="border-t border-rule px-4 pt-2.5">Certificate</h3>
      <ul className="py-1">
        {STATUSES.map(([value, words]) =>
          line('status', value, words, counts?.status[value] ?? 0, value),
        )}
      </ul>
      <h3 className="border-t border-rule px-4 pt-2.5">Where</h3>
      <ul className="py-1">
        {line('where', 'bench', 'On a bench', counts?.where.bench ?? 0)}
        {line('where', 'store', 'In store', counts?.where.store ?? 0)}
      </ul>
    </section>
  )
}
