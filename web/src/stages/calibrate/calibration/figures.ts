/** What of a calibration is said and drawn, from its plan and its captures. */

import type { Calibration, PlanStep } from '../../../api/calibrations'
import { spanFromSi } from '../../../ui/units'

/** What a person is to do at a step, before the load. */
export const stepWords = ({ stage, after_s }: PlanStep): string =>
  after_s ? `Left on for ${after_s} s` : WORDS[stage]

const WORDS: Record<PlanStep['stage'], string> = {
  preload: 'Preload: go to',
  zero: 'Without load: settle on',
  rising: 'Rising: settle on',
  falling: 'Falling: settle on',
  'zero after': 'All load off: settle on',
  creep: 'Creep: put on at once',
}

/** The largest load of a plan, SI, without its sign. */
export const largestOf = (calibration: Calibration): number =>
  Math.max(...calibration.steps.map((s) => Math.abs(s.load)))

/** How near to a step's load a reading counts as at it: less than half way to the next one. */
export function nearness(calibration: Calibration): number {
  const loads = [...new Set(calibration.steps.map((s) => s.load))].sort((a, b) => a - b)
  return 0.4 * Math.min(...loads.slice(1).map((load, i) => load - loads[i]!))
}

/** Its least bit of movement that still counts as steady, in the channel's unit. */
export const steadyIn = (calibration: Calibration, unit: string): number =>
  spanFromSi(calibration.steady * largestOf(calibration), unit)

export interface Residual {
  load: number
  /** % of the load. */
  value: number
}

/** Residuals of each rising, then of each falling series, in the order of the loads. */
export function residuals(calibration: Calibration): {
  rising: Residual[][]
  falling: Residual[][]
} {
  const loads = calibration.evaluation?.loads ?? []
  const all = (of: 'rising' | 'falling') =>
    (loads[0]?.[of] ?? []).map((_, series) =>
      loads.flatMap((l) => {
        const value = l[of][series]
        return value == null ? [] : [{ load: l.load, value: value * 100 }]
      }),
    )
  return { rising: all('rising'), falling: all('falling') }
}
