import { expect, it } from 'vitest'

import type { BenchState } from './source'
import { standingOf } from './standing'

const state = (over: Partial<BenchState>) =>
  ({
    phase: 'recording',
    paused: '',
    waiting: '',
    dry: false,
    programme: null,
    ...over,
  }) as BenchState

it('what a person must know first is said first', () => {
  expect(standingOf(state({}))).toEqual(['Recording', 'recording'])
  expect(standingOf(state({ dry: true }))).toEqual(['Dry run', 'dry'])
  expect(standingOf(state({ dry: true, paused: 'Paused' }))[1]).toBe('standing')
  expect(standingOf(state({ waiting: 'F rises above 2 kN' }))[0]).toBe('Waiting for trigger')
  expect(standingOf(state({ phase: 'arming', paused: 'x' }))).toEqual([
    'Confirming settings',
    'busy',
  ])
})
