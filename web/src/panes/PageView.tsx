import { Fragment, useEffect, useRef, useState } from 'react'
import { Group, Panel, Separator } from 'react-resizable-panels'

import type { Setup } from '../api/client'
import {
  moved,
  nudged,
  paneAt,
  panesOf,
  placeOf,
  shared,
  swapped,
  type Page,
  type Place,
  type Side,
} from './page'
import { PaneFrame } from './PaneFrame'

interface Props {
  page: Page
  setup: Setup
  recording: boolean
  change: (page: Page) => void
}

const asKey = (at: Place) => at.join('-')

/** The panes of a page; they are dragged by their grips, and the rules between them resize. */
export function PageView({ page, setup, recording, change }: Props) {
  const [dragged, setDragged] = useState<Place | null>(null)
  const [largest, setLargest] = useState<string | null>(null)
  const box = useRef<HTMLDivElement>(null)
  const [focusNext, setFocusNext] = useState<Place | null>(null)
  useEffect(() => {
    if (focusNext)
      box.current?.querySelector<HTMLElement>(`[data-place="${asKey(focusNext)}"]`)?.focus()
  }, [focusNext])
  const nudge = (at: Place, side: Side) => {
    const next = nudged(page, at, side)
    const to = placeOf(next, paneAt(page, at)!)
    if (to) setFocusNext(to)
    change(next)
  }
  const drop = (to: Place, side: Side | 'swap') => {
    setDragged(null)
    if (!dragged) return
    change(side === 'swap' ? swapped(page, dragged, to) : moved(page, dragged, to, side))
  }
  const frame = (at: Place) => (
    <PaneFrame
      key={asKey(at)}
      page={page}
      at={at}
      setup={setup}
      recording={recording}
      change={change}
      onNudge={(side) => nudge(at, side)}
      isLargest={largest === asKey(at)}
      onLargest={() => {
        setLargest(largest ? null : asKey(at))
        setFocusNext(at)
      }}
      isDragged={dragged !== null && asKey(dragged) === asKey(at)}
      onDrag={setDragged}
      onDrop={dragged && asKey(dragged) !== asKey(at) ? (side) => drop(at, side) : undefined}
    />
  )
  const found = panesOf(page).find(([at]) => asKey(at) === largest)
  const whole = found ? (
    frame(found[0])
  ) : (
    <Divided
      upright
      parts={page.rows}
      onShares={(shares) => change(shared(page, [], shares))}
      label="Rows"
    >
      {(row, r) => (
        <Divided
          parts={row.columns}
          onShares={(shares) => change(shared(page, [r], shares))}
          label={`Columns of row ${r + 1}`}
        >
          {(column, c) => (
            <Divided
              upright
              parts={column.panes}
              onShares={(shares) => change(shared(page, [r, c], shares))}
              label={`Panes of column ${c + 1}`}
            >
              {(_, p) => frame([r, c, p])}
            </Divided>
          )}
        </Divided>
      )}
    </Divided>
  )
  return (
    <div ref={box} className="flex min-h-0 flex-1">
      {whole}
    </div>
  )
}

interface DividedProps<T> {
  parts: readonly T[]
  upright?: boolean
  onShares: (shares: number[]) => void
  label: string
  children: (part: T, index: number) => React.ReactNode
}

/** Parts that share a width or a height; what lies between two moves by mouse and by arrows. */
function Divided<T extends { share: number }>(props: DividedProps<T>) {
  const { parts, upright, onShares, label, children } = props
  const only = parts[0]
  if (parts.length === 1 && only) return children(only, 0)
  const all = parts.reduce((sum, part) => sum + part.share, 0)
  const shares = parts.map((part) => (100 * part.share) / all)
  const layout = Object.fromEntries(shares.map((share, i) => [String(i), share]))
  return (
    <Group
      key={shares.map((share) => share.toFixed(1)).join()}
      orientation={upright ? 'vertical' : 'horizontal'}
      defaultLayout={layout}
      onLayoutChanged={(now, { isUserInteraction }) =>
        isUserInteraction && onShares(parts.map((_, i) => now[String(i)]!))
      }
      className="min-h-0 flex-1"
    >
      {parts.map((part, i) => (
        <Fragment key={i}>
          {i > 0 && (
            <Separator
              aria-label={`${label}: between ${i} and ${i + 1}`}
              className={`bg-rule hover:bg-petrol focus-visible:bg-petrol ${upright ? 'h-px' : 'w-px'}`}
            />
          )}
          <Panel id={String(i)} minSize="8%" className="flex min-h-0 min-w-0">
            {children(part, i)}
          </Panel>
        </Fragment>
      ))}
    </Group>
  )
}
