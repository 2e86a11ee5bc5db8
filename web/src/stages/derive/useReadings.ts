import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'

import { computeReadings, readingsQuery, type RunReadings } from '../../api/readings'
import { attempt } from '../../ui/notices'

/** How a run is read; what is missing of its computed channels is ordered once it is opened. */
export function useReadings(runId: number | undefined): RunReadings | undefined {
  const found = useQuery({ ...readingsQuery(runId ?? 0), enabled: !!runId }).data
  const missing = found?.channels.find((c) => !c.problem && c.share === 0)?.key
  const version = found?.version
  useEffect(() => {
    if (runId && missing) void attempt(computeReadings(runId, missing))
  }, [runId, missing, version])
  return found
}
