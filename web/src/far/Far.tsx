import { useQuery } from '@tanstack/react-query'
import { Popover } from 'radix-ui'

import { changePreferences, preferencesQuery } from '../api/preferences'
import { useMay } from '../api/queries'
import type { Guard } from '../kinds/form'
import { useStage } from '../frame/stage'
import { useBenchState } from '../live/LiveProvider'
import { readablesOf, type Readable } from '../readable'
import { attempt } from '../ui/notices'
import { FarBand } from './FarBand'
import { FarControls, FarStop } from './FarControls'
import { FarReading } from './FarReading'

const MOST = 4

/** One to four readings with their guards and the state, to be read from across the room. */
export function Far() {
  const context = useStage()
  const { setup, bench } = context
  const state = useBenchState()
  const may = useMay('drive the bench')
  const all = readablesOf(setup)
  const shown = useShown(setup.id, all, setup.guards)
  const [first, ...others] = shown
  return (
    <div className="flex h-full flex-col bg-sheet">
      <FarBand state={state} setup={setup} />
      {first ? (
        <FarReading of={first} setup={setup} state={state} large />
      ) : (
        <p className="p-8 text-large">Wire a channel and its reading shows here.</p>
      )}
      {others.length > 0 && (
        <div className="flex min-h-0 flex-[2] border-t border-rule-strong">
          {others.map((one) => (
            <FarReading key={one.key} of={one} setup={setup} state={state} />
          ))}
        </div>
      )}
      <div className="flex flex-none items-center gap-3 border-t border-rule-strong bg-paper px-6 py-3">
        {may && bench.yoke_mine && <FarControls context={context} state={state} />}
        <span className="ml-auto flex items-center gap-3">
          <ChosenReadings setup={setup.id} all={all} shown={shown} />
          <FarStop bench={bench.id} />
        </span>
      </div>
    </div>
  )
}

const tableOf = (setup: number): string => `far ${setup}`

/** Those that somebody chose for themselves, or else what is guarded, then what comes first. */
function useShown(setup: number, all: readonly Readable[], guards: readonly Guard[]): Readable[] {
  const chosen = useQuery(preferencesQuery).data?.columns[tableOf(setup)]
  const known = chosen?.flatMap((key) => all.find((c) => c.key === key) ?? []) ?? []
  if (known.length > 0) return known.slice(0, MOST)
  const guarded = [...new Set(guards.flatMap((g) => all.find((c) => c.key === g.channel) ?? []))]
  return [...guarded, ...all.filter((c) => !guarded.includes(c))].slice(0, 3)
}

function ChosenReadings(props: {
  setup: number
  all: readonly Readable[]
  shown: readonly Readable[]
}) {
  const { setup, all, shown } = props
  const keys = shown.map((c) => c.key)
  const toggle = (key: string) => {
    const wanted = keys.includes(key) ? keys.filter((k) => k !== key) : [...keys, key]
    const columns = { [tableOf(setup)]: wanted.length ? wanted.slice(-MOST) : null }
    void attempt(changePreferences({ columns }))
  }
  return (
    <Popover.Root>
      <Popover.Trigger className="h-11 rounded border border-rule-strong bg-sheet px-4 text-lead">
        Readings
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="end"
          className="z-40 max-h-100 w-60 overflow-y-auto rounded border border-rule bg-sheet p-2 shadow-lifted"
        >
          {all.map(({ key, name }) => (
            <label key={key} className="flex h-8 items-center gap-2 px-1">
              <input type="checkbox" checked={keys.includes(key)} onChange={() => toggle(key)} />
              {name}
            </label>
          ))}
          <p className="px-1 pt-1 text-small leading-4 text-soft">
            Up to {MOST}, on your screens only.
          </p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
