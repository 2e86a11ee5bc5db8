import type { Setup } from '../api/client'
import { paneOf } from '.'

/** A pane in an arrangement: which, with which options, and its share of the height. */
export interface PlacedPane {
  pane: string
  options?: unknown
  share: number
}

/** Panes below each other. */
export function Placed({ panes, setup, recording }: Props) {
  return panes.map(({ pane, options, share }) => {
    const found = paneOf(pane)
    const chosen = options ?? found?.options
    if (!found?.shows(setup, chosen)) return null
    return (
      <div
        key={pane}
        className="flex min-h-0 flex-col border-t border-rule first:border-0"
        style={{ flexGrow: share, flexBasis: 0 }}
      >
        <found.Component setup={setup} recording={recording} options={chosen} />
      </div>
    )
  })
}

interface Props {
  panes: readonly PlacedPane[]
  setup: Setup
  recording: boolean
}
