import { expect, it } from 'vitest'

import { spread } from './spread'

it('leaves apart what is apart', () => {
  expect(spread([10, 80, 40], 13, 100)).toEqual([10, 80, 40])
})

it('moves what collides, in its order, and never over the end', () => {
  expect(spread([50, 50, 52], 13, 100)).toEqual([50, 63, 76])
  expect(spread([95, 98, 20], 13, 100)).toEqual([87, 100, 20])
})
