/** How a run is read: channels as corrected, computed ones, and corrections. */

import { queryOptions } from '@tanstack/react-query'

import { client, got, type Schemas } from './client'
import { queryClient } from './queries'
import { asShown } from '../ui/display'
import { learnUnit, toSi } from '../ui/units'
import { decodeView, type PlotSegment } from './view'

export type RunReading = Schemas['RunReadingOut']
export type RunReadings = Schemas['RunReadingsOut']
export type Correction = Schemas['CorrectionIn']['correction']
export type Effects = Schemas['CorrectionEffects']
export type Hint = Schemas['HintOut']

const ofRun = (run_id: number) => ({ params: { path: { run_id } } })
const ofSetup = (setup_id: number) => ({ params: { path: { setup_id } } })
const ofCorrection = (setup_id: number, correction_key: string) => ({
  params: { path: { setup_id, correction_key } },
})

export const readingsQuery = (runId: number) =>
  queryOptions({
    queryKey: ['readings', runId],
    queryFn: async () => {
      const found = await got(client.GET('/api/runs/{run_id}/readings', ofRun(runId)))
      for (const { unit, factor, offset } of found.channels) learnUnit(unit, factor, offset)
      return { ...found, channels: found.channels.map(asShownReading) }
    },
  })

/** A channel of a run as oneself sees it. */
function asShownReading(channel: RunReading): RunReading {
  const shown = asShown(channel)
  if (shown === channel) return channel
  const [offset, end] = [toSi(0, shown.unit), toSi(1, shown.unit)]
  return { ...shown, factor: end - offset, offset }
}

/** Have the worker compute what is missing; news tell how far it is. */
export const computeReadings = (runId: number, first?: string) =>
  got(client.POST('/api/runs/{run_id}/readings', { ...ofRun(runId), body: { first } }))

export const cancelReadings = (runId: number) =>
  got(client.DELETE('/api/runs/{run_id}/readings', ofRun(runId)))

export const hintsQuery = (runId: number, version: string) =>
  queryOptions({
    queryKey: ['hints', runId, version],
    queryFn: () => got(client.GET('/api/runs/{run_id}/hints', ofRun(runId))),
    staleTime: Infinity,
  })

/** What a correction would make stale; asked for anew with each change of it. */
export const effectsQuery = (setupId: number, runs: number[], correction: Correction) =>
  queryOptions({
    queryKey: ['effects', setupId, runs, correction],
    queryFn: () => {
      const body = { runs, correction }
      return got(
        client.POST('/api/setups/{setup_id}/corrections/effects', { ...ofSetup(setupId), body }),
      )
    },
    enabled: runs.length > 0,
    retry: false,
    staleTime: 0,
  })

/** A channel as a correction would make it, as far as that can be computed at once. */
export async function correctedView(
  runId: number,
  channel: string,
  correction: Correction,
  pixels: number,
): Promise<PlotSegment[]> {
  const body = { channel, correction, pixels }
  const path = '/api/runs/{run_id}/corrected-view'
  return decodeView(
    await got<ArrayBuffer>(client.POST(path, { ...ofRun(runId), body, parseAs: 'arrayBuffer' })),
  )
}

async function renewed<T>(answer: Promise<T>): Promise<T> {
  const found = await answer
  const keys = ['readings', 'runs', 'derivations', 'series', 'reports', 'hints', 'effects']
  await Promise.all(keys.map((key) => queryClient.invalidateQueries({ queryKey: [key] })))
  return found
}

export const addCorrection = (
  setupId: number,
  runs: number[],
  correction: Correction,
  reason: string,
) => {
  const body = { runs, correction, reason }
  return renewed(got(client.POST('/api/setups/{setup_id}/corrections', { ...ofSetup(setupId), body }))) // prettier-ignore
}

export const changeCorrection = (setupId: number, key: string, body: Schemas['CorrectionChange']) =>
  renewed(
    got(
      client.PATCH('/api/setups/{setup_id}/corrections/{correction_key}', {
        ...ofCorrection(setupId, key),
        body,
      }),
    ),
  )

export const removeCorrection = (setupId: number, key: string) =>
  renewed(
    got(
      client.DELETE(
        '/api/setups/{setup_id}/corrections/{correction_key}',
        ofCorrection(setupId, key),
      ),
    ),
  )
