import { useRef } from 'react'

import type { Setup } from '../api/client'
import { readablesOf, type Readable } from '../readable'
import { Icon } from '../ui/Icon'
import { paneOf } from '.'
import { useDroppedChannels } from './dropped'
import { DropSides } from './DropSides'
import { channelsOf, goneFrom } from './shown'
import { changed, paneAt, type Page, type Place, type PlacedPane, type Side } from './page'
import type { Pane, PaneOptions } from './pane'
import { PaneSettings } from './PaneSettings'

interface Props {
  page: Page
  at: Place
  setup: Setup
  recording: boolean
  change: (page: Page) => void
  onNudge: (side: Side) => void
  isLargest: boolean
  onLargest: () => void
  isDragged: boolean
  onDrag: (at: Place | null) => void
  onDrop?: (side: Side | 'swap') => void
}

const ARROWS: Record<string, Side> = {
  ArrowLeft: 'left',
  ArrowRight: 'right',
  ArrowUp: 'above',
  ArrowDown: 'below',
}

/** A pane on a page: what it shows, and at its corner what moves, enlarges and sets it. */
export function PaneFrame(props: Props) {
  const { page, at, setup, recording, change, onDrop } = props
  const box = useRef<HTMLElement>(null)
  const pane = paneAt(page, at)!
  const kind = paneOf(pane.pane)
  const set = (change_: Partial<PlacedPane>) => change(changed(page, at, change_))
  useDroppedChannels(box, (key) => {
    const found = readablesOf(setup).find((c) => c.key === key)
    if (kind && found && kind.room > 0 && kind.fits(found))
      set(withChannel(kind, pane, setup, found))
  })
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.target !== box.current) return
    const side = ARROWS[event.key]
    if (event.altKey && side) props.onNudge(side)
    else if (event.key === 'm' && !event.ctrlKey) props.onLargest()
    else return
    event.preventDefault()
  }
  const title = kind?.title ?? 'Unknown pane'
  return (
    <section
      ref={box}
      tabIndex={0}
      aria-label={title}
      data-place={at.join('-')}
      data-takes-channels={kind && kind.room > 0 ? '' : undefined}
      onKeyDown={onKeyDown}
      className={`group/pane relative flex min-h-0 min-w-0 flex-1 flex-col focus-visible:outline-2 focus-visible:-outline-offset-2 ${props.isDragged ? 'opacity-50' : ''}`}
    >
      <div className="absolute top-1 right-1 z-20 flex rounded border border-rule bg-sheet opacity-0 shadow-lifted has-data-[state=open]:opacity-100 group-focus-within/pane:opacity-100 group-hover/pane:opacity-100">
        <span
          draggable
          title="Drag it beside, above or below another, or onto it"
          aria-hidden
          className="grid size-7 cursor-grab place-items-center text-soft"
          onDragStart={(event) => {
            event.dataTransfer.setData('text/plain', title)
            event.dataTransfer.effectAllowed = 'move'
            // The zones of the others appear a turn later: at once they would end the drag.
            setTimeout(() => props.onDrag(at))
          }}
          onDragEnd={() => props.onDrag(null)}
        >
          <Icon name="grip" />
        </span>
        <button
          type="button"
          aria-label={props.isLargest ? 'Back to its place' : 'Largest'}
          title={`${props.isLargest ? 'Back to its place' : 'Largest'} (M)`}
          className="grid size-7 place-items-center"
          onClick={props.onLargest}
        >
          <Icon name={props.isLargest ? 'smaller' : 'larger'} />
        </button>
        <PaneSettings page={page} at={at} setup={setup} change={change} onNudge={props.onNudge} />
      </div>
      <Shown kind={kind} pane={pane} setup={setup} recording={recording} set={set} />
      {onDrop && <DropSides onDrop={onDrop} />}
    </section>
  )
}

/** A dropped channel is one more; where there is no room for it, it takes the last one's place. */
function withChannel(
  kind: Pane,
  pane: PlacedPane,
  setup: Setup,
  { key, name }: Readable,
): Partial<PlacedPane> {
  const given = channelsOf(kind, pane, setup).filter((c) => c.key !== key)
  const kept = given.slice(0, kind.room - 1).map((c) => ({ key: c.key, name: c.name }))
  return { channels: [...kept, { key, name }] }
}

interface ShownProps {
  kind: Pane | undefined
  pane: PlacedPane
  setup: Setup
  recording: boolean
  set: (change: Partial<PlacedPane>) => void
}

function Shown({ kind, pane, setup, recording, set }: ShownProps) {
  if (!kind)
    return (
      <Sentence>This pane was made by a newer version of Yoke Bench: update this one.</Sentence>
    )
  const gone = goneFrom(pane, setup)
  const channels = channelsOf(kind, pane, setup)
  const why = kind.lacks(setup, channels)
  const options = { ...kind.options, ...pane.options } as PaneOptions
  return (
    <>
      {gone.length > 0 && (
        <p role="status" className="flex-none bg-marking-wash px-3 py-0.5 text-small">
          {gone.join(', ')} {gone.length > 1 ? 'are' : 'is'} gone from this setup.
        </p>
      )}
      {why ? (
        <Sentence>{why}</Sentence>
      ) : (
        <kind.Component
          key={pane.pane}
          setup={setup}
          recording={recording}
          channels={channels}
          options={options}
          change={(more) => set({ options: { ...pane.options, ...more } as PaneOptions })}
        />
      )}
    </>
  )
}

const Sentence = ({ children }: { children: React.ReactNode }) => (
  <p className="m-auto max-w-80 p-4 text-center text-soft">{children}</p>
)
