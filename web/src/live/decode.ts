/** Reads a live frame by the layout that the server describes (frameLayout.ts). */

import { BIN, HEADER, HEADER_BYTES, NO_RUN, ROW } from './frameLayout'

type RowFigures = Readonly<Record<(typeof ROW)[number], number>>

/** A channel's figures: see live/protocol.py; `place` is where it stands in the layout. */
export interface ChannelFrame extends RowFigures {
  /** lowest, highest, last of each bin, SI */
  readonly bins: Float32Array
}

export interface Frame {
  readonly layout: number
  /** Seconds of the run at the end of the block; null without a run. */
  readonly runS: number | null
  readonly endS: number // bench time at the end of the block
  readonly binCount: number
  readonly channels: readonly ChannelFrame[]
}

function headerOf(buffer: ArrayBuffer): Record<keyof typeof HEADER, number> {
  const view = new DataView(buffer)
  const entries = Object.entries(HEADER).map(([name, [place, type]]) => [
    name,
    Number(view[`get${type}`](place, true)),
  ])
  return Object.fromEntries(entries) as Record<keyof typeof HEADER, number>
}

export function decodeFrame(buffer: ArrayBuffer): Frame {
  const { layout, channels, bins, endS, runS } = headerOf(buffer)
  const numbers = new Float32Array(buffer, HEADER_BYTES)
  const width = ROW.length + BIN.length * bins
  const rows = Array.from({ length: channels }, (_, i) => {
    const row = numbers.subarray(i * width, (i + 1) * width)
    const figures = Object.fromEntries(ROW.map((name, at) => [name, row[at]!])) as RowFigures
    return { ...figures, bins: row.subarray(ROW.length) }
  })
  return { layout, endS, runS: runS === NO_RUN ? null : runS, binCount: bins, channels: rows }
}
