import { expect, it } from 'vitest'

import { byName } from './results'

function packed(header: object, numbers: number[]): ArrayBuffer {
  let text = JSON.stringify(header)
  text += ' '.repeat(-text.length & 3)
  const bytes = new Uint8Array(4 + text.length + 4 * numbers.length)
  new DataView(bytes.buffer).setUint32(0, text.length, true)
  bytes.set(new TextEncoder().encode(text), 4)
  new Float32Array(bytes.buffer, 4 + text.length).set(numbers)
  return bytes.buffer
}

it('columns come apart by their names', () => {
  const columns = [
    { name: 'strain', count: 3 },
    { name: 'stress', count: 2 },
  ]
  const found = byName(packed({ columns }, [0, 1, 2, 10, 11]))
  expect([...found['strain']!]).toEqual([0, 1, 2])
  expect([...found['stress']!]).toEqual([10, 11])
})
