import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'

import { computeReadings, readingsQuery, type RunReadings } from '../../api/readings'
import { attempt } from '../../ui/notices'

/** How a run is read; what is missing of its computed channels is ordered once it is opened. */
export function useReadings(runId: number | undefined): RunReadings | undefined {
  const found = useQuery({ ...readingsQuery(runId ?? 0), enabled: !!runId }).data
  const isMissing = !!found?.channels.some((c) => !c.problem && c.share < 1)
  const version = found?.version
  // Once for a version of the run's readings: what was cancelled does not begin again by itself.
  useEffect(() => {
    if (runId && isMissing) void attempt(computeReadings(runId))
  }, [runId, isMissing, version])
  return found
}
