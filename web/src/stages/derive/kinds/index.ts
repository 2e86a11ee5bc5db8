import { cycles } from './cycles'
import type { Kind, Name } from './kind'
import { rosette } from './rosette'
import { tension } from './tension'

/** The kinds of results; a new one adds a folder and a line here. */
export const KINDS: { readonly [K in Name]: Kind<K> } = { tension, rosette, cycles }

/** A kind by a recipe's own parameters: the caller hands the same parameters back to it. */
export const kindOf = (name: Name): Kind => KINDS[name] as unknown as Kind
