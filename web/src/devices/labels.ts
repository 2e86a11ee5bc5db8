import type { Bench } from '../api/client'

const LETTERS: Record<string, string> = {
  'bridge amplifier': 'A',
  'measuring module': 'M',
  'weighing indicator': 'W',
  'line gauge': 'S',
  'pulse module': 'P',
}

/** A label that no device of the bench has yet; inputs are called after it. */
export function freeLabel(driver: string, bench: Pick<Bench, 'devices'>): string {
  const letter = LETTERS[driver] ?? 'D'
  const taken = new Set(bench.devices.map((d) => d.label))
  let number = 1
  while (taken.has(`${letter}${number}`)) number += 1
  return `${letter}${number}`
}
