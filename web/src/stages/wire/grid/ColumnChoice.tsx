import { Popover } from 'radix-ui'

import { Button } from '../../../ui/Button'
import { COLUMNS } from './columns'

interface Props {
  hidden: Record<string, boolean>
  onChange: (hidden: Record<string, boolean>) => void
}

/** Which columns are shown: kept for the person on this computer. */
export function ColumnChoice({ hidden, onChange }: Props) {
  const named = COLUMNS.filter((c) => c.title)
  const shown = named.filter((c) => hidden[c.id] !== false).length
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button>
          Columns{' '}
          <span className="text-soft">
            {shown} of {named.length}
          </span>
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          className="z-40 rounded border border-rule bg-sheet p-3 shadow-lifted"
        >
          {named.map((c) => (
            <label key={c.id} className="flex min-h-6 items-center gap-2">
              <input
                type="checkbox"
                checked={hidden[c.id] !== false}
                onChange={(e) => onChange({ ...hidden, [c.id]: e.target.checked })}
              />
              {c.title}
            </label>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
