import { useQuery } from '@tanstack/react-query'
import { Popover } from 'radix-ui'

import { changePreferences, preferencesQuery } from '../../api/preferences'
import { attempt } from '../../ui/notices'
import { COLUMNS, type GridColumn } from './columns'

const TABLE = 'calibrate'
const USUAL = COLUMNS.filter((c) => !c.onDemand)

/** The columns that oneself wants to see; the usual ones while nothing is chosen. */
export function useColumns(): readonly GridColumn[] {
  const wanted = useQuery(preferencesQuery).data?.columns[TABLE]
  return wanted ? COLUMNS.filter((c) => c.always || wanted.includes(c.name)) : USUAL
}

/** Which columns are shown, to oneself. */
export function ColumnChoice({ shown }: { shown: readonly GridColumn[] }) {
  const names = shown.map((c) => c.name)
  const toggle = (name: string) => {
    const wanted = names.includes(name) ? names.filter((n) => n !== name) : [...names, name]
    const columns = { [TABLE]: isUsual(wanted) ? null : wanted }
    void attempt(changePreferences({ columns }))
  }
  return (
    <Popover.Root>
      <Popover.Trigger className="h-7 rounded border border-rule-strong bg-sheet px-2.5 text-small">
        Columns, {names.length} of {COLUMNS.length}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          className="z-40 w-52 rounded border border-rule bg-sheet p-2 shadow-lifted"
        >
          {COLUMNS.filter((c) => !c.always).map(({ name }) => (
            <label key={name} className="flex h-7 items-center gap-2 px-1 text-small">
              <input type="checkbox" checked={names.includes(name)} onChange={() => toggle(name)} />
              {name}
            </label>
          ))}
          <p className="px-1 pt-1 text-small leading-4 text-soft">On your screens only.</p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

const isUsual = (names: string[]): boolean =>
  names.length === USUAL.length && USUAL.every((c) => names.includes(c.name))
