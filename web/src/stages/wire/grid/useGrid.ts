import { useState } from 'react'

import type { Setup } from '../../../api/client'
import { byCell, fillDown, putCells, type Outcome } from './cells'
import type { GridColumn } from './columns'
import { inputsOf, type Line } from './rows'
import { asText, at, extent, placed, type Selection } from './selection'

export interface Proposal {
  inputs: number[]
  columns: string[]
  outcomes: Map<string, Outcome>
}

/** What is chosen, edited, proposed and refused in the table, and the actions on it. */
export function useGrid(setup: Setup, lines: readonly Line[], columns: readonly GridColumn[]) {
  const rows = inputsOf(lines)
  const [selection, select] = useState<Selection>(at(0, 2))
  const [editing, edit] = useState<string | null>(null) // the text it begins with
  const [refused, setRefused] = useState<Map<string, Outcome>>(new Map())
  const [proposal, propose] = useState<Proposal | null>(null)
  const [said, say] = useState<{ taken: number; of: number; commas: number } | null>(null)
  const block = extent(selection)
  const focused = { row: rows[selection.focus[0]], column: columns[selection.focus[1]] }

  const put = async (cells: { input_id: number; column: string; text: string }[]) => {
    const outcomes = await putCells(setup.id, cells)
    const not = outcomes.filter((o) => o.why_not)
    setRefused(byCell(not))
    say({
      taken: outcomes.length - not.length,
      of: outcomes.length,
      commas: outcomes.filter((o) => o.comma).length,
    })
  }

  return {
    rows,
    selection,
    editing,
    refused,
    proposal,
    said,
    select: (next: Selection) => {
      edit(null)
      propose(null)
      select(next)
    },
    begin: (text?: string) => {
      const { row, column } = focused
      if (!row || !column?.edited) return
      edit(text ?? column.text(row))
    },
    cancel: () => edit(null),
    commit: async (text: string, row: number, column: number) => {
      edit(null)
      const [line, of] = [rows[row], columns[column]]
      if (!line || !of || text === of.text(line)) return
      await put([{ input_id: line.id, column: of.id, text }])
    },
    copied: (): string =>
      asText(
        rows
          .slice(block.top, block.bottom + 1)
          .map((line) => columns.slice(block.left, block.right + 1).map((c) => c.text(line))),
      ),
    paste: async (text: string) => {
      const cells = placed(text, selection)
        .filter((c) => rows[c.row] && columns[c.column]?.edited && c.text !== '')
        .map((c) => ({
          input_id: rows[c.row]!.id,
          column: columns[c.column]!.id,
          text: c.text.slice(0, 60),
        }))
      if (cells.length) await put(cells)
    },
    proposeFill: async () => {
      const inputs = rows.slice(block.top, block.bottom + 1).map((r) => r.id)
      const chosen = columns.slice(block.left, block.right + 1).filter((c) => c.edited)
      if (inputs.length < 2 || !chosen.length) return
      const names = chosen.map((c) => c.id)
      const outcomes = await fillDown(setup.id, inputs, names, true)
      if (outcomes.length) propose({ inputs, columns: names, outcomes: byCell(outcomes) })
    },
    fill: async () => {
      if (!proposal) return
      const outcomes = await fillDown(setup.id, proposal.inputs, proposal.columns, false)
      setRefused(byCell(outcomes.filter((o) => o.why_not)))
      propose(null)
    },
    leave: () => propose(null),
  }
}

export type GridState = ReturnType<typeof useGrid>
