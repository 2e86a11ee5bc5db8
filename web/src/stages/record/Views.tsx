import { useState } from 'react'

import type { Setup } from '../../api/client'
import { StandStill } from '../../live/LiveProvider'
import { PageBar } from '../../panes/PageBar'
import { PageView } from '../../panes/PageView'
import { usePages } from '../../panes/usePages'

/** The pages of a setup, live; they may stand still to be looked at while everything goes on. */
export function Views({ setup, recording }: { setup: Setup; recording: boolean }) {
  const pages = usePages(setup)
  const [frozen, setFrozen] = useState(false)
  if (pages.isPending) return null
  return (
    <>
      <PageBar
        pages={pages}
        setup={setup}
        frozen={frozen}
        onFreeze={() => setFrozen((now) => !now)}
      />
      {frozen && (
        <p role="status" className="flex-none bg-marking-wash px-4 py-0.5 text-small">
          The plots stand still; recording goes on. Drag across one to look closer.
        </p>
      )}
      <StandStill on={frozen}>
        <PageView
          key={pages.shown.name}
          page={pages.shown}
          setup={setup}
          recording={recording}
          change={pages.change}
        />
      </StandStill>
    </>
  )
}
