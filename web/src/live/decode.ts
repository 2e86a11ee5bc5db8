/** The binary live frame (server: record/recorder/live_frame.py). */

export interface ChannelFrame {
  /** The channel's place in the layout. */
  readonly place: number
  readonly reading: number // SI; NaN where everything clipped
  readonly raw: number // mV/V
  readonly lowest: number // since reset
  readonly highest: number
  /** Share of samples at the converter's rail. */
  readonly clipped: number
  readonly mean: number // of the last second
  readonly deviation: number
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

const HEADER_BYTES = 32
const HEAD = 8

export function decodeFrame(buffer: ArrayBuffer): Frame {
  const view = new DataView(buffer)
  const channelCount = view.getUint16(4, true)
  const binCount = view.getUint16(6, true)
  const runS = view.getFloat64(24, true)
  const numbers = new Float32Array(buffer, HEADER_BYTES)
  const width = HEAD + 3 * binCount
  const channels = Array.from({ length: channelCount }, (_, i) => {
    const row = numbers.subarray(i * width, (i + 1) * width)
    return {
      place: row[0]!,
      reading: row[1]!,
      raw: row[2]!,
      lowest: row[3]!,
      highest: row[4]!,
      clipped: row[5]!,
      mean: row[6]!,
      deviation: row[7]!,
      bins: row.subarray(HEAD),
    }
  })
  return {
    layout: view.getUint32(0, true),
    endS: view.getFloat64(16, true),
    runS: runS < 0 ? null : runS,
    binCount,
    channels,
  }
}
