import { expect, it } from 'vitest'

import type { Setup } from '../api/client'
import { stations } from './Line'

const setup = (fields: object) =>
  ({ channels: [], runs: 0, results: 0, reports: 0, preflight: [], ...fields }) as unknown as Setup
const channels = (...zeros: (number | null)[]) => zeros.map((zero) => ({ zero, takes_zero: true }))

it('is hollow before anything is done', () => {
  const all = Object.values(stations(setup({}), false))
  expect(all.map((s) => s.progress)).toEqual(Array(5).fill('hollow'))
})

it('counts what is missing', () => {
  const all = stations(setup({ channels: channels(0.1, null, null), runs: 3, results: 2 }), false)
  expect(all.calibrate).toEqual({ figure: '1/3', note: '2 to zero', progress: 'part' })
  expect(all.derive.progress).toBe('part')
  expect(all.report.progress).toBe('hollow')
})

it('is done when nothing is missing, and running while it records', () => {
  const full = setup({ channels: channels(0, 0), runs: 1, results: 1, reports: 1 })
  expect(Object.values(stations(full, false)).map((s) => s.progress)).toEqual(Array(5).fill('done'))
  expect(stations(full, true).record.progress).toBe('running')
})

it('keeps its notes short enough for the line', () => {
  const all = stations(setup({ channels: channels(null, 0), runs: 2, results: 1 }), true)
  for (const { note } of Object.values(all)) expect(note.length).toBeLessThanOrEqual(13)
})
