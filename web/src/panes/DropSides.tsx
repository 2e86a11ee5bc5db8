import { useState } from 'react'

import type { Side } from './page'

type Target = Side | 'swap'

const WHERE: Record<Target, string> = {
  left: 'inset-y-0 left-0 w-1/4',
  right: 'inset-y-0 right-0 w-1/4',
  above: 'inset-x-1/4 top-0 h-1/3',
  below: 'inset-x-1/4 bottom-0 h-1/3',
  swap: 'inset-x-1/4 top-1/3 h-1/3',
}
const SAID: Record<Target, string> = {
  left: 'left of it',
  right: 'right of it',
  above: 'above it',
  below: 'below it',
  swap: 'change places',
}

/** Where a dragged pane may come to stand about another. */
export function DropSides({ onDrop }: { onDrop: (target: Target) => void }) {
  const [over, setOver] = useState<Target | null>(null)
  return (
    <div className="absolute inset-0 z-30 bg-sheet/70">
      {(Object.keys(WHERE) as Target[]).map((target) => (
        <div
          key={target}
          data-drop={target}
          className={`absolute grid place-items-center border border-dashed border-rule-strong text-small ${WHERE[target]} ${over === target ? 'bg-marking-wash' : ''}`}
          onDragOver={(event) => {
            event.preventDefault()
            if (over !== target) setOver(target)
          }}
          onDragLeave={() => setOver(null)}
          onDrop={(event) => {
            event.preventDefault()
            onDrop(target)
          }}
        >
          {SAID[target]}
        </div>
      ))}
    </div>
  )
}
