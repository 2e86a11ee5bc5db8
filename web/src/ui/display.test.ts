import { afterEach, expect, it } from 'vitest'

import { asShown, learnDisplay } from './display'

const force = { name: 'F', quantity: 'force', unit: 'kN', decimals: 3 }

afterEach(() => learnDisplay({}))

it('shows a channel as everybody sees it while nothing is set', () => {
  expect(asShown(force)).toBe(force)
})

it("shows it in one's own unit and keeps how everybody sees it", () => {
  learnDisplay({ force: { unit: 'N', decimals: 0 } })
  const shown = asShown(force)
  expect(shown).toEqual({
    ...force,
    unit: 'N',
    decimals: 0,
    shared: { unit: 'kN', decimals: 3 },
  })
  const strain = { name: 'SG1', quantity: 'strain', unit: 'µm/m', decimals: 1 }
  expect(asShown(strain)).toBe(strain)
})
