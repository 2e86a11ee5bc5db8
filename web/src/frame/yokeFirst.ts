import type { Bench } from '../api/client'
import { takeYoke } from '../api/actions'

export interface Waiting {
  waits?: string
  first?: () => void
}

/** What an action that needs the yoke waits for; where the yoke is free, a press takes it. */
export function yokeFirst(bench: Bench, may: boolean): (action: string) => Waiting {
  if (!may) return (action) => ({ waits: `Reviewers do not ${action}` })
  if (bench.yoke_mine) return () => ({})
  if (bench.yoke_holder && !bench.yoke_me_elsewhere)
    return () => ({ waits: `${bench.yoke_holder} holds the yoke` })
  return (action) => ({
    waits: `Take the yoke to ${action}`,
    first: () => void takeYoke(bench.id),
  })
}
