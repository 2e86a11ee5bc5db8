/** The binary live frame (server: record/recorder/live_frame.py). */

export interface ChannelFrame {
  readonly id: number
  readonly reading: number // SI
  readonly raw: number // mV/V
  readonly clipped: boolean
  /** lowest, highest, last of each bin, SI */
  readonly bins: Float32Array
}

export interface Frame {
  /** Seconds of the run at the end of the block; null without a run. */
  readonly runS: number | null
  readonly endS: number // device time at the end of the block
  readonly binCount: number
  readonly channels: readonly ChannelFrame[]
}

const HEADER_BYTES = 24
const HEAD = 4

export function decodeFrame(buffer: ArrayBuffer): Frame {
  const view = new DataView(buffer)
  const channelCount = view.getUint16(0, true)
  const binCount = view.getUint16(2, true)
  const numbers = new Float32Array(buffer, HEADER_BYTES)
  const width = HEAD + 3 * binCount
  const channels = Array.from({ length: channelCount }, (_, i) => {
    const row = numbers.subarray(i * width, (i + 1) * width)
    return {
      id: row[0]!,
      reading: row[1]!,
      raw: row[2]!,
      clipped: row[3] !== 0,
      bins: row.subarray(HEAD),
    }
  })
  return {
    endS: view.getFloat64(8, true),
    runS: view.getFloat64(16, true) < 0 ? null : view.getFloat64(16, true),
    binCount,
    channels,
  }
}
