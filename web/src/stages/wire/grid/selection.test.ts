import { expect, it } from 'vitest'

import { asText, at, extent, fromText, holds, moved, placed } from './selection'

const SIZE = { rows: 10, columns: 5 }

it('moves within the table and extends from where it was begun', () => {
  expect(moved(at(0, 0), 'ArrowUp', false, SIZE)).toEqual(at(0, 0))
  expect(moved(at(9, 4), 'ArrowRight', false, SIZE)).toEqual(at(9, 4))
  expect(moved(at(3, 2), 'End', false, SIZE)).toEqual(at(3, 4))
  const block = moved(at(3, 2), 'PageDown', true, SIZE)!
  expect(extent(block)).toEqual({ top: 3, bottom: 9, left: 2, right: 2 })
  expect(holds(block, 5, 2)).toBe(true)
  expect(holds(block, 5, 3)).toBe(false)
  expect(moved(at(3, 2), 'x', false, SIZE)).toBeNull()
})

it('writes and reads what a spreadsheet does', () => {
  const rows = [
    ['G1', 'lot 1', '2,5'],
    ['G2', '', '5'],
  ]
  expect(fromText(asText(rows))).toEqual(rows)
  expect(fromText('a\tb\r\nc\td\r\n')).toEqual([
    ['a', 'b'],
    ['c', 'd'],
  ])
})

it('lays a pasted block from its corner on, and one cell over the whole choice', () => {
  expect(placed('a\tb\nc\td', at(2, 1))).toEqual([
    { row: 2, column: 1, text: 'a' },
    { row: 2, column: 2, text: 'b' },
    { row: 3, column: 1, text: 'c' },
    { row: 3, column: 2, text: 'd' },
  ])
  const block = { anchor: [4, 1], focus: [2, 1] } as const
  expect(placed('5', block).map((c) => [c.row, c.text])).toEqual([
    [2, '5'],
    [3, '5'],
    [4, '5'],
  ])
})
