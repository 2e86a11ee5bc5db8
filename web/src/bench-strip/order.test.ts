import { expect, it } from 'vitest'

import { ordered } from './order'

const items = ['F', 'e', 'SG1', 'SG2'].map((key) => ({ key }))

it("keeps a person's order and puts new channels behind it", () => {
  expect(ordered(items, ['SG1', 'F']).map((i) => i.key)).toEqual(['SG1', 'F', 'e', 'SG2'])
  expect(ordered(items, ['gone', 'SG2']).map((i) => i.key)).toEqual(['SG2', 'F', 'e', 'SG1'])
})
