import { useRef, useState } from 'react'

import type { Bench, Channel, Setup } from '../../api/client'
import { bridgesOf, shuntCheck, toZero, zero } from '../../api/actions'
import { useMay } from '../../api/queries'
import { yokeFirst } from '../../frame/yokeFirst'
import { Button } from '../../ui/Button'
import { row } from '../../ui/row'
import { useIsSeen } from '../../ui/useIsSeen'
import { UndoRedo } from '../wire/ChannelInspector'
import { ColumnChoice, useColumns } from './ColumnChoice'
import { MarkedBar } from './MarkedBar'
import type { GridColumn } from './columns'

interface Props {
  setup: Setup
  bench: Bench
  channel: Channel
  onChoose: (id: number) => void
}

/** All channels with what is known of their readings; several are marked to be edited at once. */
export function ChannelGrid({ setup, bench, channel, onChoose }: Props) {
  const yoke = yokeFirst(bench, useMay('zero and check channels'))
  const [marked, mark] = useState<ReadonlySet<number>>(new Set())
  const columns = useColumns()
  const chosen = setup.channels.filter((c) => marked.has(c.id))
  const of = (ids: number[]) => (chosen.length ? ids.filter((id) => marked.has(id)) : ids)
  const [rest, bridges] = [of(toZero(setup)), of(bridgesOf(setup))]
  const missing = setup.channels.filter((c) => c.zero === null && c.takes_zero).length
  const toggle = (id: number) =>
    mark((was) => (was.has(id) ? new Set([...was].filter((i) => i !== id)) : new Set([...was, id])))
  const all = chosen.length === setup.channels.length
  return (
    <section className="col border-r-0" aria-label="Channels">
      <div className="bar">
        <h1>Channels</h1>
        <span className={missing ? 'text-marking-ink' : 'text-moss'}>
          <b className="font-strong">{missing ? `${missing} to zero` : 'all zeroed'}</b>
        </span>
        <ColumnChoice shown={columns} />
        <UndoRedo setup={setup} />
        <Button {...yoke('shunt check')} onClick={() => void shuntCheck(setup.id, bridges)}>
          Shunt check {bridges.length} bridges
        </Button>
        <Button
          look="go"
          shortcut={chosen.length ? undefined : 'F7'}
          {...yoke('zero')}
          onClick={() => void zero(setup.id, rest)}
        >
          Zero {rest.length} channels
        </Button>
      </div>
      {chosen.length > 0 && (
        <MarkedBar setup={setup} channels={chosen} onDone={() => mark(new Set())} />
      )}
      <div className="overflow-auto">
        <table className="grid-table">
          <thead className="sticky top-0 z-10 bg-sheet">
            <tr>
              <th className="w-9 pl-3!">
                <input
                  type="checkbox"
                  aria-label="Mark all channels"
                  checked={all}
                  onChange={() => mark(all ? new Set() : new Set(setup.channels.map((c) => c.id)))}
                />
              </th>
              {columns.map((c) => (
                <th key={c.name} style={{ textAlign: c.right ? 'right' : 'left' }}>
                  <span className={c.hidden ? 'sr-only' : ''}>{c.name}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {setup.channels.map((c) => (
              <Row
                key={c.id}
                channel={c}
                columns={columns}
                chosen={c.id === channel.id}
                marked={marked.has(c.id)}
                onChoose={() => onChoose(c.id)}
                onMark={() => toggle(c.id)}
              />
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}

interface RowProps {
  channel: Channel
  columns: readonly GridColumn[]
  chosen: boolean
  marked: boolean
  onChoose: () => void
  onMark: () => void
}

function Row({ channel: c, columns, chosen, marked, onChoose, onMark }: RowProps) {
  const line = useRef<HTMLTableRowElement>(null)
  const isSeen = useIsSeen(line)
  return (
    <tr
      ref={line}
      onClick={(e) => (e.ctrlKey || e.metaKey || e.shiftKey ? onMark() : onChoose())}
      aria-selected={chosen}
      className={row({ chosen, className: 'h-8 cursor-pointer' })}
    >
      <td className="pl-3!" onClick={(e) => e.stopPropagation()}>
        <input
          type="checkbox"
          className="align-middle"
          aria-label={`Mark ${c.name}`}
          checked={marked}
          onChange={onMark}
        />
      </td>
      {columns.map(({ name, right, Cell }) => (
        <td key={name} className={right ? 'text-right' : ''}>
          <Cell channel={c} isSeen={isSeen} onChoose={onChoose} />
        </td>
      ))}
    </tr>
  )
}
