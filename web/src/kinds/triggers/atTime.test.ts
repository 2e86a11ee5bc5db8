import { expect, it } from 'vitest'

import { localOf, momentOf } from './atTime'

it('a moment is read as clocks show it here', () => {
  const moment = momentOf('2026-12-04 18:00')
  expect(localOf(moment)).toBe('2026-12-04 18:00')
})

it.each(['Friday', '2026-12-04', '2026-13-04 18:00', '18:00'])('%s is no moment', (text) => {
  expect(() => momentOf(text)).toThrow('no date with a time')
})
