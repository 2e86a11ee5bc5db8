import type { Bench } from '../api/client'
import { takeYoke } from '../api/deeds'

export interface Waiting {
  waits?: string
  first?: () => void
}

/** What a deed that needs the yoke waits for; where the yoke is free, a press takes it. */
export function yokeFirst(bench: Bench, may: boolean): (deed: string) => Waiting {
  if (!may) return (deed) => ({ waits: `Reviewers do not ${deed}` })
  if (bench.yoke_mine) return () => ({})
  if (bench.yoke_holder && !bench.yoke_me_elsewhere)
    return () => ({ waits: `${bench.yoke_holder} holds the yoke` })
  return (deed) => ({
    waits: `Take the yoke to ${deed}`,
    first: () => void takeYoke(bench.id),
  })
}
