import { expect, it } from 'vitest'

import { decodeCurve } from './curve'

function packed(header: object, numbers: number[]): ArrayBuffer {
  let text = JSON.stringify(header)
  text += ' '.repeat(-text.length & 3)
  const bytes = new Uint8Array(4 + text.length + 4 * numbers.length)
  new DataView(bytes.buffer).setUint32(0, text.length, true)
  bytes.set(new TextEncoder().encode(text), 4)
  new Float32Array(bytes.buffer, 4 + text.length).set(numbers)
  return bytes.buffer
}

it('a curve comes apart into the whole and its elastic part', () => {
  const curve = decodeCurve(packed({ whole: 3, near: 2 }, [0, 1, 2, 10, 11, 12, 0, 0.5, 20, 21]))
  expect([...curve.whole.strain]).toEqual([0, 1, 2])
  expect([...curve.whole.stress]).toEqual([10, 11, 12])
  expect([...curve.near.strain]).toEqual([0, 0.5])
  expect([...curve.near.stress]).toEqual([20, 21])
})
