import { useOutletContext } from 'react-router'

import type { Bench, Setup } from '../api/client'

/** What every stage works on. */
export interface StageContext {
  setup: Setup
  bench: Bench
  /** Channel ids chosen in the strip or a grid; what Zero and the inspectors work on. */
  chosen: number | null
  choose: (id: number | null) => void
}

export const useStage = (): StageContext => useOutletContext<StageContext>()
