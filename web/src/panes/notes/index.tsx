import { useState } from 'react'

import type { Pane, PaneProps } from '../pane'

type Options = { text: string }
const MAX_LENGTH = 2000

export const notes: Pane<Options> = {
  title: 'Notes',
  fits: () => false,
  room: 0,
  proposes: () => [],
  lacks: () => '',
  options: { text: '' },
  Component: Notes,
}

/** What somebody wants to have before their eyes; kept with the page when it is left. */
function Notes({ options, change }: PaneProps<Options>) {
  const [draft, setDraft] = useState<string | null>(null)
  return (
    <textarea
      aria-label="Notes"
      placeholder="What to have before one’s eyes: steps, limits, whom to call"
      value={draft ?? options.text}
      maxLength={MAX_LENGTH}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={() => {
        if (draft !== null && draft !== options.text) change({ text: draft })
        setDraft(null)
      }}
      className="min-h-0 flex-1 resize-none bg-transparent p-4 text-lead leading-6"
    />
  )
}
