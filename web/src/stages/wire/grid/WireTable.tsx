import { getCoreRowModel, useReactTable } from '@tanstack/react-table'
import { useQuery } from '@tanstack/react-query'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useMemo, useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react'

import { checkWiring } from '../../../api/actions'
import { sessionQuery, useMay } from '../../../api/queries'
import { useStage } from '../../../frame/stage'
import { yokeFirst } from '../../../frame/yokeFirst'
import { Button } from '../../../ui/Button'
import { Segments } from '../../../ui/Fact'
import { UndoRedo } from '../ChannelInspector'
import { ColumnChoice } from './ColumnChoice'
import { columnOf, HIDDEN_AT_FIRST, tableColumns } from './columns'
import { FillPanel } from './FillPanel'
import { Foot } from './Foot'
import { GridLine, GroupRow } from './GridLine'
import { Ruler } from './Ruler'
import { linesOf, type Order } from './rows'
import { at, extent, moved } from './selection'
import { useGrid } from './useGrid'

const LINE = 23 // px
const CHECK = 190 // px at least

/** All inputs of the bench as a table that is edited, filled down and pasted into. */
export function WireTable({ view }: { view: React.ReactNode }) {
  const { setup, bench, choose } = useStage()
  const may = useMay('wire channels')
  const [order, setOrder] = useState<Order>('device')
  const [search, setSearch] = useState('')
  const [busy, setBusy] = useState(false)
  const [hidden, setHidden] = useHidden()
  const lines = useMemo(() => linesOf(bench, setup, order, search), [bench, setup, order, search])
  // The compiler leaves this component as it is: what the table gives changes under it.
  // eslint-disable-next-line react-hooks/incompatible-library
  const table = useReactTable({
    data: lines,
    columns: tableColumns,
    state: { columnVisibility: hidden },
    getCoreRowModel: getCoreRowModel(),
  })
  const columns = table.getVisibleLeafColumns().map((c) => columnOf(c.id))
  const grid = useGrid(setup, lines, columns)
  const box = useRef<HTMLDivElement>(null)
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: () => LINE,
    overscan: 12,
  })
  const block = extent(grid.selection)
  const chosen = new Set(grid.rows.slice(block.top, block.bottom + 1).map((r) => r.id))
  const width = columns.reduce((sum, c) => sum + c.width, 0) + CHECK
  const show = (row: number) => {
    const line = grid.rows[row]
    if (line) virtual.scrollToIndex(lines.indexOf(line))
    choose(line?.channel?.id ?? null)
  }
  const onKey = (e: KeyboardEvent) => {
    if (e.target instanceof HTMLInputElement) return
    if (grid.proposal && e.key === 'Enter') void grid.fill()
    else if (e.ctrlKey && e.key.toLowerCase() === 'd') void grid.proposeFill()
    else if (e.ctrlKey || e.metaKey || e.altKey) return
    else if (e.key === 'Escape') {
      grid.leave()
      return // twice is the emergency stop
    } else if (e.key === 'Enter' || e.key === 'F2') grid.begin()
    else if (e.key.length === 1 && e.key !== '?') grid.begin(e.key)
    else {
      const size = { rows: grid.rows.length, columns: columns.length }
      const next = moved(grid.selection, e.key, e.shiftKey, size)
      if (!next) return
      grid.select(next)
      show(next.focus[0])
    }
    e.preventDefault()
    e.stopPropagation()
  }
  const done = (text: string, go: 'down' | 'right' | 'stay', row: number, column: number) => {
    void grid.commit(text, row, column)
    if (go === 'down') grid.select(at(Math.min(row + 1, grid.rows.length - 1), column))
    if (go === 'right') grid.select(at(row, Math.min(column + 1, columns.length - 1)))
    box.current?.focus()
  }
  const yoke = yokeFirst(bench, may)('check the wiring')
  const scroll = virtual.scrollOffset ?? 0
  const whole = Math.max(virtual.getTotalSize(), 1)
  const high = box.current?.clientHeight ?? whole
  return (
    <section className="col relative h-full border-r-0" aria-label="Inputs">
      <div className="bar">
        <h1>Inputs</h1>
        {view}
        <Segments
          label="Order"
          options={[
            ['device', 'By device'],
            ['sensor', 'By sensor'],
          ]}
          value={order}
          onChange={setOrder}
        />
        <input
          value={search}
          onChange={(e) => setSearch(e.target.value)}
          placeholder="Find in the table"
          aria-label="Find in the table"
          className="h-7 w-40 rounded border border-rule-strong bg-paper px-2"
        />
        <ColumnChoice hidden={hidden} onChange={setHidden} />
        <UndoRedo setup={setup} />
        <Button
          look="go"
          disabled={busy || !setup.channels.length}
          {...yoke}
          onClick={() => {
            setBusy(true)
            const all = setup.channels.map((c) => c.id)
            void checkWiring(setup.id, all).finally(() => setBusy(false))
          }}
        >
          {busy ? 'Checking' : `Check ${setup.channels.length} inputs`}
        </Button>
      </div>
      <div className="flex min-h-0 flex-1">
        <div
          ref={box}
          role="grid"
          tabIndex={0}
          aria-label="Table of inputs"
          aria-rowcount={grid.rows.length}
          aria-multiselectable
          onKeyDown={onKey}
          onCopy={(e: ClipboardEvent) => {
            if (e.target instanceof HTMLInputElement) return
            e.clipboardData.setData('text/plain', grid.copied())
            e.preventDefault()
          }}
          onPaste={(e: ClipboardEvent) => {
            if (e.target instanceof HTMLInputElement || !may) return
            void grid.paste(e.clipboardData.getData('text/plain'))
            e.preventDefault()
          }}
          className="min-w-0 flex-1 overflow-auto text-small [scrollbar-width:none]"
        >
          <div style={{ minWidth: width }}>
            <div
              role="row"
              className="sticky top-0 z-10 flex h-6 border-b border-rule-strong bg-sheet text-soft"
            >
              {columns.map((c) => (
                <div
                  key={c.id}
                  role="columnheader"
                  style={{ width: c.width, fontStretch: '94%' }}
                  className={`flex flex-none items-center px-2 font-number whitespace-nowrap ${c.right ? 'justify-end' : ''}`}
                >
                  {c.title || <span className="sr-only">Bridge</span>}
                </div>
              ))}
              <div role="columnheader" className="flex flex-1 items-center px-2 font-number">
                Check
              </div>
            </div>
            <div className="relative" style={{ height: virtual.getTotalSize() }}>
              {virtual.getVirtualItems().map((item) => {
                const line = lines[item.index]!
                const style = { height: LINE, transform: `translateY(${item.start}px)` }
                return line.kind === 'group' ? (
                  <GroupRow key={line.id} line={line} style={style} />
                ) : (
                  <GridLine
                    key={line.id}
                    line={line}
                    row={grid.rows.indexOf(line)}
                    columns={columns}
                    grid={grid}
                    style={style}
                    onDone={done}
                    onShow={(id) => choose(id)}
                    may={may}
                  />
                )
              })}
            </div>
          </div>
        </div>
        <Ruler
          lines={lines}
          chosen={chosen}
          view={[scroll / whole, Math.min((scroll + high) / whole, 1)]}
          onGo={(share) => virtual.scrollToIndex(Math.floor(share * lines.length))}
        />
      </div>
      {grid.proposal && <FillPanel grid={grid} />}
      <Foot setup={setup} inputs={grid.rows.length} grid={grid} />
    </section>
  )
}

/** Which columns a person has hidden, kept on this computer. */
function useHidden() {
  const who = useQuery(sessionQuery).data?.username ?? ''
  const key = `wire-columns:${who}`
  const [hidden, keep] = useState<Record<string, boolean>>(() => {
    try {
      return JSON.parse(localStorage.getItem(key) ?? '') as Record<string, boolean>
    } catch {
      return HIDDEN_AT_FIRST
    }
  })
  const change = (next: Record<string, boolean>) => {
    localStorage.setItem(key, JSON.stringify(next))
    keep(next)
  }
  return [hidden, change] as const
}
