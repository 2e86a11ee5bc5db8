import { bridge } from './bridge'
import { inductiveHalf, potentiometer } from './divider'
import { generic } from './generic'
import type { InputKind } from './input'
import { loop } from './loop'
import { pulses } from './pulses'
import { thermometer } from './thermometer'
import { voltage } from './voltage'

/** The kinds of input that have a look of their own; a new one adds a folder and a line here. */
const INPUTS: Record<string, unknown> = {
  bridge,
  potentiometer,
  inductive_half: inductiveHalf,
  loop,
  pulses,
  thermometer,
  voltage,
}

/** Add a kind; gives what takes it away again. */
export function addInputKind(name: string, kind: unknown): () => void {
  INPUTS[name] = kind
  return () => delete INPUTS[name]
}

/** How a channel's input is drawn and set: as its kind's folder says, or by its words alone. */
export const inputKind = (channel: { wiring: { kind: string } }): InputKind =>
  (INPUTS[channel.wiring.kind] ?? generic) as InputKind
