/** What panes draw of live traces. */

import type { LiveSource } from '../live/source'
import type { Trace } from '../live/trace'
import { fromSi } from '../ui/units'

export type Span = 'rolling' | 'whole'

export function traceOf(live: LiveSource, key: string, span: Span): Trace | undefined {
  return (span === 'rolling' ? live.rolling : live.wholeRun).get(key)
}

/** What clipped has no value to show. */
export const shown = (value: number, unit: string): number | null =>
  Number.isFinite(value) ? fromSi(value, unit) : null
