/** Pages of panes as people arrange them: rows of columns of panes, changed without being spoilt. */

import type { Schemas, Setup } from '../api/client'
import { paneOf } from '.'

export type Page = Schemas['Page']
export type PageRow = Page['rows'][number]
export type PageColumn = PageRow['columns'][number]
export type PlacedPane = PageColumn['panes'][number]

/** Where a pane stands: row, column, and how far down in it. */
export type Place = readonly [row: number, column: number, pane: number]
export type Side = 'left' | 'right' | 'above' | 'below'

export const MAX_PANES = 16
export const MAX_PAGES = 8
const MAX_BESIDE = 6

export const placed = (pane: string, more: Partial<PlacedPane> = {}): PlacedPane => ({
  pane,
  channels: [],
  options: {},
  share: 1,
  ...more,
})

/** All panes with their places, in reading order. */
export const panesOf = (page: Page): [Place, PlacedPane][] =>
  page.rows.flatMap((row, r) =>
    row.columns.flatMap((column, c) =>
      column.panes.map((pane, p): [Place, PlacedPane] => [[r, c, p], pane]),
    ),
  )

export const paneAt = (page: Page, [r, c, p]: Place): PlacedPane | undefined =>
  page.rows[r]?.columns[c]?.panes[p]

const replaced = <T>(list: readonly T[], at: number, ...by: T[]): T[] => [
  ...list.slice(0, at),
  ...by,
  ...list.slice(at + 1),
]
const inserted = <T>(list: readonly T[], at: number, one: T): T[] => [
  ...list.slice(0, at),
  one,
  ...list.slice(at),
]

function withColumn(page: Page, [r, c]: Place, column: PageColumn): Page {
  const row = page.rows[r]!
  const columns = replaced(row.columns, c, column)
  return { ...page, rows: replaced(page.rows, r, { ...row, columns }) }
}

/** The page with other settings of one pane. */
export function changed(page: Page, at: Place, change: Partial<PlacedPane>): Page {
  const column = page.rows[at[0]]!.columns[at[1]]!
  const pane = { ...column.panes[at[2]]!, ...change }
  return withColumn(page, at, { ...column, panes: replaced(column.panes, at[2], pane) })
}

const alone = (pane: PlacedPane): PageColumn => ({ panes: [pane], share: 1 })

/** The page with a pane more at a side of one that is there; the same page where there is no room. */
export function added(page: Page, at: Place, side: Side, pane: PlacedPane): Page {
  if (panesOf(page).length >= MAX_PANES) return page
  const [r, c, p] = at
  const row = page.rows[r]
  if (!row) return { ...page, rows: [{ columns: [alone(pane)], share: 1 }] }
  const after = side === 'right' || side === 'below' ? 1 : 0
  if (side === 'left' || side === 'right') {
    if (row.columns.length >= MAX_BESIDE) return page
    const share = row.columns[c]!.share
    const columns = inserted(row.columns, c + after, { ...alone(pane), share })
    return { ...page, rows: replaced(page.rows, r, { ...row, columns }) }
  }
  if (row.columns.length === 1 && row.columns[0]!.panes.length === 1)
    return inNewRow(page, r + after, pane)
  const column = row.columns[c]!
  if (column.panes.length >= MAX_BESIDE) return page
  const panes = inserted(column.panes, p + after, { ...pane, share: column.panes[p]!.share })
  return withColumn(page, at, { ...column, panes })
}

function inNewRow(page: Page, r: number, pane: PlacedPane): Page {
  if (page.rows.length >= MAX_BESIDE) return page
  const row: PageRow = { columns: [alone(pane)], share: page.rows[Math.max(0, r - 1)]?.share ?? 1 }
  return { ...page, rows: inserted(page.rows, r, row) }
}

/** The page without what `isGone`; what then holds nothing goes too. */
function without(page: Page, isGone: (pane: PlacedPane) => boolean): Page {
  const rows = page.rows
    .map((row) => ({
      ...row,
      columns: row.columns
        .map((column) => ({ ...column, panes: column.panes.filter((pane) => !isGone(pane)) }))
        .filter((column) => column.panes.length > 0),
    }))
    .filter((row) => row.columns.length > 0)
  return { ...page, rows }
}

export function removed(page: Page, at: Place): Page {
  const gone = paneAt(page, at)
  return without(page, (pane) => pane === gone)
}

/** The page with one pane at a side of another; the same page where there is no room. */
export function moved(page: Page, from: Place, to: Place, side: Side): Page {
  const pane = paneAt(page, from)
  if (!pane || String(from) === String(to)) return page
  const copy = { ...pane }
  const room = panesOf(page).length < MAX_PANES ? page : removed(page, from)
  const more = added(room, to, side, copy)
  if (more === room) return page
  return without(more, (one) => one === pane)
}

/** The page with two panes in each other's place. */
export function swapped(page: Page, a: Place, b: Place): Page {
  const [one, other] = [paneAt(page, a)!, paneAt(page, b)!]
  const there = changed(page, a, { ...other, share: one.share })
  return changed(there, b, { ...one, share: other.share })
}

/** Where a pane stands on a page on which it was moved. */
export const placeOf = (page: Page, { options }: PlacedPane): Place | undefined =>
  panesOf(page).find(([, one]) => one.options === options)?.[0]

/** The page with a pane one further in a direction. */
export function nudged(page: Page, at: Place, side: Side): Page {
  const [r, c, p] = at
  const row = page.rows[r]!
  const column = row.columns[c]!
  if (side === 'above' && p > 0) return swapped(page, at, [r, c, p - 1])
  if (side === 'below' && p < column.panes.length - 1) return swapped(page, at, [r, c, p + 1])
  if (side === 'left' && c > 0) return swapped(page, at, [r, c - 1, 0])
  if (side === 'right' && c < row.columns.length - 1) return swapped(page, at, [r, c + 1, 0])
  const stands = row.columns.length === 1 && column.panes.length === 1
  if (side === 'left' || side === 'right')
    return column.panes.length > 1
      ? moved(page, at, [r, c, (p + 1) % column.panes.length], side)
      : page
  const next = r + (side === 'above' ? -1 : 1)
  if (stands) return page.rows[next] ? rowsSwapped(page, r, next) : page
  const pane = paneAt(page, at)!
  const more = inNewRow(page, side === 'above' ? r : r + 1, { ...pane })
  return more === page ? page : without(more, (one) => one === pane)
}

function rowsSwapped(page: Page, a: number, b: number): Page {
  const rows = [...page.rows]
  ;[rows[a], rows[b]] = [page.rows[b]!, page.rows[a]!]
  return { ...page, rows }
}

/** The page with other shares of what stands beside or below each other. */
export function shared(page: Page, at: readonly number[], shares: readonly number[]): Page {
  const of = <T extends { share: number }>(list: readonly T[]): T[] =>
    list.map((one, i) => ({ ...one, share: shares[i]! }))
  const [r, c] = at
  if (r === undefined) return { ...page, rows: of(page.rows) }
  const row = page.rows[r]!
  if (c === undefined)
    return { ...page, rows: replaced(page.rows, r, { ...row, columns: of(row.columns) }) }
  const column = row.columns[c]!
  return withColumn(page, [r, c, 0], { ...column, panes: of(column.panes) })
}

/** What everybody sees of a setup whose pages nobody arranged: what suits it. */
export function pageFor(setup: Setup): Page {
  const suits = ({ pane }: PlacedPane) => {
    const kind = paneOf(pane)!
    return kind.lacks(setup, kind.proposes(setup)) === ''
  }
  const below = ['xy', 'turns', 'steps'].map((pane) => placed(pane)).filter(suits)
  const rows = [[placed('strips')].filter(suits), below].filter((row) => row.length > 0)
  return {
    name: 'Overview',
    rows: rows.map((row, i) => ({ columns: row.map(alone), share: i === 0 ? 5 : 3 })),
  }
}
