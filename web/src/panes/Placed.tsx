import type { Setup } from '../api/client'
import { paneOf } from '.'

/** A pane in an arrangement: which, with which options, and its share of the height. */
export interface PlacedPane {
  pane: string
  options?: unknown
  share: number
}

/** Panes below each other; those of a list beside each other. */
export function Placed({ panes, setup, recording }: Props) {
  return panes.map((placed) => {
    const row = (Array.isArray(placed) ? placed : [placed]).filter(({ pane, options }) => {
      const found = paneOf(pane)
      return found?.shows(setup, options ?? found.options)
    })
    if (!row[0]) return null
    return (
      <div
        key={row[0].pane}
        className="flex min-h-0 border-t border-rule first:border-0"
        style={{ flexGrow: row[0].share, flexBasis: 0 }}
      >
        {row.map((one) => (
          <One key={one.pane} placed={one} setup={setup} recording={recording} />
        ))}
      </div>
    )
  })
}

function One({ placed, setup, recording }: Of & { placed: PlacedPane }) {
  const found = paneOf(placed.pane)
  if (!found) return null
  return (
    <div className="flex min-h-0 min-w-0 flex-1 flex-col border-l border-rule first:border-0">
      <found.Component
        setup={setup}
        recording={recording}
        options={placed.options ?? found.options}
      />
    </div>
  )
}

interface Props extends Of {
  panes: readonly (PlacedPane | PlacedPane[])[]
}

interface Of {
  setup: Setup
  recording: boolean
}
