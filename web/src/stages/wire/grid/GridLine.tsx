import type { CSSProperties } from 'react'

import { Icon } from '../../../ui/Icon'
import { inForce, type Check } from '../../../kinds/inputs/drawing/marks'
import { Cell, Editor } from './Cell'
import { cellKey, type Outcome } from './cells'
import type { GridColumn } from './columns'
import type { GroupLine, InputLine } from './rows'
import { at, holds } from './selection'
import type { GridState } from './useGrid'

export function GroupRow({ line, style }: { line: GroupLine; style: CSSProperties }) {
  return (
    <div
      role="row"
      style={style}
      className="absolute inset-x-0 top-0 border-b border-rule bg-paper"
    >
      <div role="gridcell" className="flex h-full items-center gap-3 px-4">
        <b className="font-name first-letter:uppercase">{line.title}</b>
        <span className="text-soft">{line.words}</span>
        <span className="text-soft">{line.right}</span>
        {line.faults > 0 && (
          <b className="font-name text-signal">
            {line.faults} {line.faults === 1 ? 'fault' : 'faults'}
          </b>
        )}
      </div>
    </div>
  )
}

interface Props {
  line: InputLine
  row: number
  columns: readonly GridColumn[]
  grid: GridState
  style: CSSProperties
  may: boolean
  onDone: (text: string, go: 'down' | 'right' | 'stay', row: number, column: number) => void
  onShow: (channel: number | null) => void
}

/** One input: its cells, and what the check says or why a cell was not taken. */
export function GridLine({ line, row, columns, grid, style, may, onDone, onShow }: Props) {
  const { selection, editing, proposal, refused } = grid
  const not = columns.map((c) => refused.get(cellKey(line.id, c.id))).find(Boolean)
  const fault = line.channel && inForce(line.channel)?.passed === false
  return (
    <div
      role="row"
      style={style}
      className={`absolute inset-x-0 top-0 flex border-b border-rule ${line.channel ? '' : 'text-soft'}`}
    >
      {columns.map((column, i) => {
        const focused = selection.focus[0] === row && selection.focus[1] === i
        if (focused && editing !== null && may)
          return (
            <Editor
              key={column.id}
              text={editing}
              width={column.width}
              label={`${column.title} of ${line.label}`}
              onDone={(text, go) => onDone(text, go, row, i)}
              onCancel={grid.cancel}
            />
          )
        const key = cellKey(line.id, column.id)
        return (
          <Cell
            key={column.id}
            id={`cell-${key}`}
            width={column.width}
            right={column.right}
            chosen={holds(selection, row, i)}
            focused={focused}
            proposed={taken(proposal?.outcomes.get(key))}
            refused={refused.get(key)?.text}
            onChoose={(extend) => {
              grid.select(extend ? { ...selection, focus: [row, i] } : at(row, i))
              onShow(line.channel?.id ?? null)
            }}
            onEdit={() => grid.begin()}
          >
            {column.show ? column.show(line) : column.text(line)}
          </Cell>
        )
      })}
      <div
        role="gridcell"
        className={`flex min-w-0 flex-1 items-center gap-2 px-2 ${fault ? 'bg-signal-wash' : ''}`}
      >
        {not ? (
          <span className="flex min-w-0 items-center gap-1.5 font-number text-marking-ink">
            <Icon name="warn" size={13} />
            <span className="truncate" title={not.why_not}>
              {sentence(not.why_not)}; {not.before || 'nothing'} kept
            </span>
          </span>
        ) : (
          <CheckWords line={line} />
        )}
      </div>
    </div>
  )
}

const taken = (outcome?: Outcome) => (outcome?.why_not ? undefined : outcome)

/** What it is and at which pins, where there is no room for the sentence. */
function shortly({ short, title, causes }: Check): string {
  const pins = causes[0]?.pins ?? []
  const where = pins.length ? `, ${pins.length > 1 ? 'pins' : 'pin'} ${pins.join(' and ')}` : ''
  return short ? short + where : title
}

const sentence = (words: string) => words.charAt(0).toUpperCase() + words.slice(1)

function CheckWords({ line: { channel } }: { line: InputLine }) {
  if (!channel) return <span>no sensor</span>
  const check = channel.check
  if (!check || check.old)
    return (
      <span className="text-soft">{check ? 'changed since its check' : 'not checked yet'}</span>
    )
  if (check.passed)
    return (
      <span className="flex items-center gap-1.5">
        <span className="text-moss">
          <Icon name="tick" size={12} />
        </span>
        all well
      </span>
    )
  return (
    <span className="flex min-w-0 items-center gap-1.5 font-strong text-signal">
      <Icon name="cross" size={12} />
      <span className="truncate 2xl:hidden" title={check.title}>
        {shortly(check)}
      </span>
      <span className="hidden truncate 2xl:inline">{check.title}</span>
    </span>
  )
}
