import type { BenchState, Phase } from './source'

export type Standing = 'recording' | 'waiting' | 'standing' | 'dry' | 'busy'

const BUSY: Partial<Record<Phase, string>> = {
  arming: 'Confirming settings',
  beginning: 'Beginning',
  closing: 'Closing the run',
}

/** What a bench is doing that is not at rest. A run that stands says so; one that waits for a
 * person says that. */
export function standingOf(state: BenchState): [string, Standing] {
  const { phase, paused, programme, waiting, dry } = state
  if (phase !== 'recording') return [BUSY[phase] ?? phase, 'busy']
  if (waiting) return ['Waiting for trigger', 'waiting']
  if (paused) return ['Paused', 'standing']
  if (programme?.held) return ['Held', 'standing']
  if (programme?.waits) return ['Waits for you', 'standing']
  return dry ? ['Dry run', 'dry'] : ['Recording', 'recording']
}
