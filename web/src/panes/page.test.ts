import { expect, it } from 'vitest'

import { channel, setup } from '../ui/testing-data'
import {
  added,
  changed,
  moved,
  nudged,
  pageFor,
  panesOf,
  placed,
  removed,
  shared,
  swapped,
  type Page,
} from './page'

/** A page by words: rows by `/`, columns by `|`, panes below each other by spaces. */
const pageOf = (words: string): Page => ({
  name: 'Page',
  rows: words.split(' / ').map((row) => ({
    share: 1,
    columns: row.split(' | ').map((column) => ({
      share: 1,
      panes: column.split(' ').map((pane) => placed(pane)),
    })),
  })),
})
const words = ({ rows }: Page): string =>
  rows
    .map((row) => row.columns.map((c) => c.panes.map((p) => p.pane).join(' ')).join(' | '))
    .join(' / ')
const x = placed('x')

it.each([
  ['left', 'a | x | b / c'],
  ['right', 'a | b | x / c'],
  ['above', 'a | x b / c'],
  ['below', 'a | b x / c'],
] as const)('a pane more stands %s of one', (side, found) => {
  expect(words(added(pageOf('a | b / c'), [0, 1, 0], side, x))).toBe(found)
})

it('above and below a pane that has its row to itself is a row of its own', () => {
  expect(words(added(pageOf('a / b'), [0, 0, 0], 'below', x))).toBe('a / x / b')
  expect(words(added(pageOf('a / b'), [0, 0, 0], 'above', x))).toBe('x / a / b')
})

it('what holds nothing any more goes with its last pane', () => {
  expect(words(removed(pageOf('a | b c / d'), [0, 1, 0]))).toBe('a | c / d')
  expect(words(removed(pageOf('a | b / d'), [0, 0, 0]))).toBe('b / d')
  expect(words(removed(pageOf('a | b / d'), [1, 0, 0]))).toBe('a | b')
})

it('a pane is dragged to a side of another, wherever that comes to stand', () => {
  expect(words(moved(pageOf('a | b / c'), [0, 0, 0], [1, 0, 0], 'right'))).toBe('b / c | a')
  expect(words(moved(pageOf('a | b / c'), [1, 0, 0], [0, 1, 0], 'below'))).toBe('a | b c')
  expect(words(swapped(pageOf('a | b / c'), [0, 0, 0], [1, 0, 0]))).toBe('c | b / a')
  const page = pageOf('a | b')
  expect(moved(page, [0, 0, 0], [0, 0, 0], 'left')).toBe(page)
})

it('two panes that change places keep the sizes of the places', () => {
  const page = changed(pageOf('a b'), [0, 0, 0], { share: 4 })
  const panes = panesOf(swapped(page, [0, 0, 0], [0, 0, 1])).map(([, p]) => [p.pane, p.share])
  expect(panes).toEqual([['b', 4], ['a', 1]]) // prettier-ignore
})

it('by arrows a pane goes anywhere, and never beyond the page', () => {
  const from = pageOf('a | b / c')
  expect(words(nudged(from, [0, 0, 0], 'right'))).toBe('b | a / c')
  expect(words(nudged(from, [0, 0, 0], 'below'))).toBe('b / a / c')
  expect(words(nudged(from, [1, 0, 0], 'above'))).toBe('c / a | b')
  expect(words(nudged(pageOf('a b'), [0, 0, 1], 'above'))).toBe('b a')
  expect(words(nudged(pageOf('a b'), [0, 0, 1], 'right'))).toBe('a | b')
  for (const side of ['left', 'above', 'below'] as const)
    expect(words(nudged(pageOf('a | b'), [0, 0, 0], side))).not.toContain('undefined')
  const only = pageOf('a')
  for (const side of ['left', 'right', 'above', 'below'] as const)
    expect(nudged(only, [0, 0, 0], side)).toBe(only)
})

it('a full page takes no pane more, but lets them change places', () => {
  const full = pageOf(Array(4).fill('a b | c d').join(' / '))
  expect(panesOf(full)).toHaveLength(16)
  expect(added(full, [0, 0, 0], 'left', x)).toBe(full)
  expect(panesOf(moved(full, [0, 0, 0], [3, 1, 1], 'below'))).toHaveLength(16)
})

it('what is resized has other shares, the rest as before', () => {
  const page = shared(pageOf('a | b / c'), [0], [30, 70])
  expect(page.rows[0]!.columns.map((c) => c.share)).toEqual([30, 70])
  expect(shared(page, [], [2, 1]).rows.map((r) => r.share)).toEqual([2, 1])
  expect(shared(pageOf('a b'), [0, 0], [1, 3]).rows[0]!.columns[0]!.panes[1]!.share).toBe(3)
})

it('without anybody’s pages what suits the setup is shown', () => {
  expect(words(pageFor(setup({ channels: [channel({ quantity: 'strain' })] })))).toBe('strips')
  const pull = [
    channel({ key: 'a', quantity: 'extension' }),
    channel({ key: 'b', quantity: 'force' }),
  ]
  expect(words(pageFor(setup({ channels: pull })))).toBe('strips / xy')
  expect(pageFor(setup({ channels: [] })).rows).toEqual([])
})
