import { cycles } from './cycles'
import { generic } from './generic'
import type { Name, ResultKind } from './kind'
import { rosette } from './rosette'
import { spectrum } from './spectrum'
import { statistics } from './statistics'
import { tension } from './tension'

/** The kinds of result that have a look of their own; a new one adds a folder and a line here. */
const RESULTS: Record<string, unknown> = { tension, rosette, cycles, statistics, spectrum }

/** Add a kind; gives what takes it away again. */
export function addResultKind(name: string, kind: unknown): () => void {
  RESULTS[name] = kind
  return () => delete RESULTS[name]
}

/** How a kind of result is shown: as its folder says, or by its columns and figures alone. */
export const resultKind = (name: Name): ResultKind => (RESULTS[name] ?? generic) as ResultKind
