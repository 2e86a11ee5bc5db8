import type { Wired } from '../input'

export type Ground = NonNullable<Wired<'bridge'>['wiring']['ground']>
const GROUNDS = Object.keys({
  aluminium: true,
  steel: true,
  'stainless steel': true,
  titanium: true,
  'fibre composite': true,
  plastic: true,
} satisfies Record<Ground, true>) as Ground[]
export const BONDED_TO: [Ground | '', string][] = [
  ['', 'not told'],
  ...GROUNDS.map((g) => [g, g] as [Ground, string]),
]
