import type { Fault, Wired } from '../input'

/** What a stand-in's input can be put into, in the words of its protocol. */
const OF_THE_INPUT: Fault[] = [
  ['torn 1', 'grid torn'],
  ['nothing', 'plug pulled'],
  ['resistance 0.34286', 'gauge of about a third of the resistance'],
  ['arm 1 1.03', 'arm 1 three per cent up'],
  ['leak 12 0.75', 'grid touches the part'],
  ['leak 2e7 0.75', 'insulation 20 MΩ'],
  ['hum 3e-5', 'mains hum'],
  ['drift 5e-6', 'drift'],
  ['offset 0.05', 'overloaded'],
  ['flat', 'converter stands still'],
]

/** Those of the cores of this sensor, and of the input. */
export function faultsOf({ sensor: { cores } }: Wired<'bridge'>): Fault[] {
  const broken = cores.map((c): Fault => [`broken ${c.pin}`, `${c.colour} core broken`])
  const [first, last] = [cores[0], cores.at(-1)]
  if (!first || !last || first === last) return [...broken, ...OF_THE_INPUT]
  const swapped = `swapped ${first.pin} ${last.pin}`
  return [...broken, [swapped, `${first.colour} and ${last.colour} swapped`], ...OF_THE_INPUT]
}
