import { useEffect, useSyncExternalStore } from 'react'

import type { Channel } from '../../api/client'
import { fetchView, type PlotSegment } from '../../api/view'
import { useBenchState, useLive } from '../../live/LiveProvider'
import type { LiveSource } from '../../live/source'
import { attempt } from '../../ui/notices'

const STORED_AFTER = 500 // ms; so often, at the latest, samples are on their way to the disk
const TRIES = 6
const BINS = 50 // a second, as in live frames
const [MIN_PIXELS, MAX_PIXELS] = [16, 1000] // that the server takes, and that a plot has room for

/** What no frame brought of a run's beginning is fetched, whenever a screen comes to it. */
export function useBeginning(channels: Channel[]): void {
  const live = useLive()
  const run = useBenchState()?.run
  const missing = useSyncExternalStore(live.subscribe, () => live.missed > 0)
  useEffect(() => {
    const until = run && missing ? live.takeMissed() : 0
    if (!run || !until) return
    for (const { key, recorded } of channels) if (recorded) void fillIn(live, key, run, until)
  }, [live, run, missing, channels])
}

/** Fetch the samples until a time of the run, once they are stored; also what there is at last. */
async function fillIn(live: LiveSource, key: string, run: number, until: number): Promise<void> {
  const pixels = Math.max(MIN_PIXELS, Math.min(MAX_PIXELS, Math.ceil(until * BINS)))
  let found: PlotSegment[] = []
  for (let tries = 0; tries < TRIES && !reaches(found, until); tries++) {
    if (tries) await new Promise((over) => setTimeout(over, STORED_AFTER))
    const stored = await attempt(fetchView(run, key, [0, until], pixels))
    if (!stored) return // said why
    found = stored
  }
  if ((live.state?.run ?? run) !== run) return // the traces are another run's by now
  const times = found.flatMap(({ start, step, low }) =>
    Array.from(low, (_, i) => start + (i + 0.5) * step),
  )
  live.prepend(key, times, found.flatMap((s) => [...s.low]), found.flatMap((s) => [...s.high])) // prettier-ignore
}

function reaches(segments: PlotSegment[], until: number): boolean {
  const last = segments.at(-1)
  return !!last && last.start + last.step * (last.low.length + 1) >= until
}
