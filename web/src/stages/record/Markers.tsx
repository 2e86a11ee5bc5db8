import { useQuery } from '@tanstack/react-query'

import type { Schemas } from '../../api/client'
import { markersQuery } from '../../api/queries'
import { duration } from '../../ui/format'
import { Icon } from '../../ui/Icon'

const SHOWN = 3
const TONES: Record<Schemas['MarkerOut']['kind'], string> = {
  person: 'text-marking-ink',
  guard: 'text-signal',
  pause: 'text-soft',
  programme: 'text-soft',
  trigger: 'text-petrol',
  step: 'text-soft',
  restart: 'text-marking-ink',
}

/** The newest markers of the run that is recorded. */
export function Markers({ run }: { run: number }) {
  const markers = useQuery(markersQuery(run)).data?.items ?? []
  if (markers.length === 0) return null
  return (
    <ul aria-label="Markers" className="flex-none border-t border-rule px-3.5 py-1.5">
      {markers.slice(0, SHOWN).map((m) => (
        <li key={m.id} className="flex gap-2 text-small leading-4.5">
          <span aria-hidden className={TONES[m.kind]}>
            <Icon name="flag" size={14} />
          </span>
          <span className="min-w-0 truncate" title={m.text}>
            {m.text}
          </span>
          <span className="figure ml-auto text-soft">{duration(m.at_s)}</span>
        </li>
      ))}
    </ul>
  )
}
