/** Live frames as the server makes them, for tests. */

interface Values {
  layout?: number
  endS: number
  runS?: number
  reading?: number
  lowest?: number
  highest?: number
  clipped?: number
}

/** A frame of one channel with one bin. */
export function frameBytes(values: Values): ArrayBuffer {
  const { layout = 1, endS, runS = -1, reading = 1, clipped = 0 } = values
  const { lowest = reading - 2, highest = reading + 2 } = values
  const window = [reading, 0.2, lowest, highest]
  const row = [0, reading, 0.5, lowest, highest, clipped, reading, 0.1, ...window, ...window]
  const numbers = [...row, reading - 1, reading + 1, reading]
  const buffer = new ArrayBuffer(32 + 4 * numbers.length)
  const view = new DataView(buffer)
  view.setUint32(0, layout, true)
  view.setUint16(4, 1, true)
  view.setUint16(6, 1, true)
  view.setFloat64(16, endS, true)
  view.setFloat64(24, runS, true)
  new Float32Array(buffer, 32).set(numbers)
  return buffer
}

/** The state message that says which channels a layout holds. */
export const stateText = (layouts: Record<number, string[]>, over = {}): string =>
  JSON.stringify({
    kind: 'state',
    state: {
      phase: 'idle',
      run: null,
      layouts: Object.entries(layouts).map(([id, channels]) => ({
        id: Number(id),
        device: 'A1',
        channels,
      })),
      ...over,
    },
  })
