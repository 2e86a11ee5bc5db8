/** A block of cells: where it was begun, and where it reaches to; rows and columns from 0. */
export interface Selection {
  anchor: readonly [row: number, column: number]
  focus: readonly [row: number, column: number]
}

export const at = (row: number, column: number): Selection => ({
  anchor: [row, column],
  focus: [row, column],
})

const clamp = (value: number, most: number): number => Math.min(Math.max(value, 0), most)

const STEPS: Record<string, readonly [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  PageUp: [-20, 0],
  PageDown: [20, 0],
}

/** The selection after a key, or null if the key moves nothing. */
export function moved(
  from: Selection,
  key: string,
  extend: boolean,
  size: { rows: number; columns: number },
): Selection | null {
  const [row, column] = from.focus
  const step = STEPS[key]
  const to = step
    ? ([row + step[0], column + step[1]] as const)
    : key === 'Home'
      ? ([row, 0] as const)
      : key === 'End'
        ? ([row, size.columns - 1] as const)
        : null
  if (!to) return null
  const focus = [clamp(to[0], size.rows - 1), clamp(to[1], size.columns - 1)] as const
  return { anchor: extend ? from.anchor : focus, focus }
}

/** First and last row and column of a block. */
export function extent({ anchor, focus }: Selection) {
  return {
    top: Math.min(anchor[0], focus[0]),
    bottom: Math.max(anchor[0], focus[0]),
    left: Math.min(anchor[1], focus[1]),
    right: Math.max(anchor[1], focus[1]),
  }
}

export function holds(selection: Selection, row: number, column: number): boolean {
  const { top, bottom, left, right } = extent(selection)
  return row >= top && row <= bottom && column >= left && column <= right
}

/** Cells as a spreadsheet writes them to the clipboard: tabs between, a line a row. */
export const asText = (rows: readonly (readonly string[])[]): string =>
  rows.map((cells) => cells.join('\t')).join('\n')

/** The same read back; one cell may be pasted over a whole block. */
export function fromText(text: string): string[][] {
  const lines = text.replace(/\r\n?/g, '\n').replace(/\n$/, '').split('\n')
  return lines.map((line) => line.split('\t'))
}

export interface Pasted {
  row: number
  column: number
  text: string
}

/** Where pasted cells come to lie: from the block's corner on, or one over all of it. */
export function placed(text: string, selection: Selection): Pasted[] {
  const cells = fromText(text)
  const { top, left, bottom, right } = extent(selection)
  const one = cells.length === 1 && cells[0]!.length === 1
  const found: Pasted[] = []
  if (one) {
    for (let row = top; row <= bottom; row++)
      for (let column = left; column <= right; column++)
        found.push({ row, column, text: cells[0]![0]! })
    return found
  }
  cells.forEach((line, i) =>
    line.forEach((cell, j) => found.push({ row: top + i, column: left + j, text: cell })),
  )
  return found
}
