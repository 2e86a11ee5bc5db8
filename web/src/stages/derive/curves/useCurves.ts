import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query'

import type { Run } from '../../../api/client'
import { alignmentQuery, type CurvesPage, type DrawnRun } from '../../../api/curves'
import { readingsQuery, type RunReading, type RunReadings } from '../../../api/readings'
import { fetchView, type PlotSegment } from '../../../api/view'
import { lookAt, type Look } from '../../../panes/colours'
import type { Range } from './zooms'

export interface LaidRun {
  drawn: DrawnRun
  run: Run
  name: string
  look: Look
  /** Seconds of the run that are 0 on the page; none while that is not known. */
  zero: number | null
  problem: string
  channels: readonly RunReading[]
}

const readingsIn = (results: readonly { data?: RunReadings }[]) => results.map((r) => r.data)
const dataIn = (results: readonly { data?: PlotSegment[] }[]) => results.map((r) => r.data)

/** The runs of a page with their channels and instants. */
export function useLaidRuns(page: CurvesPage, runs: readonly Run[]): readonly LaidRun[] {
  const known = page.runs.flatMap((drawn) => {
    const run = runs.find((r) => r.id === drawn.run)
    return run ? [{ drawn, run }] : []
  })
  const readings = useQueries({
    queries: known.map(({ run }) => readingsQuery(run.id)),
    combine: readingsIn,
  })
  const instants = useQuery({
    ...alignmentQuery(
      known.map(({ run }) => run.id),
      page.align,
      known.map(({ run }) => run.readings).join(),
    ),
    enabled: known.length > 0,
  }).data
  return known.map(({ drawn, run }, i) => {
    const found = instants?.find((one) => one.run === run.id)
    return {
      drawn,
      run,
      name: drawn.name || run.name,
      look: lookAt(i),
      zero: found?.at_s == null ? null : found.at_s - (drawn.shift_s ?? 0),
      problem: found?.problem ?? '',
      channels: readings[i]?.channels ?? [],
    }
  })
}

export const channelNamed = (one: LaidRun, name: string): RunReading | undefined =>
  one.channels.find((c) => c.name === name)

export const isShown = ({ drawn, zero }: LaidRun): boolean => (drawn.shown ?? true) && zero !== null

/** From when to when the page reaches: the longest of its runs, in the page's time. */
export function extentOf(laid: readonly LaidRun[]): Range {
  const shown = laid.filter(isShown)
  if (shown.length === 0) return [0, 1]
  const from = Math.min(...shown.map((one) => -one.zero!))
  return [from, Math.max(...shown.map((one) => one.run.duration_s - one.zero!), from + 1e-3)]
}

const PIXELS = 1200

type Views = readonly (PlotSegment[] | undefined)[]

/** What channels of each run show within a range of the page's time: by channel, then by run. */
export function useViewsOf(
  laid: readonly LaidRun[],
  names: readonly string[],
  range: Range,
): readonly Views[] {
  const found = useQueries({
    queries: names.flatMap((name) => laid.map((one) => viewOf(one, name, range))),
    combine: dataIn,
  })
  return names.map((_, n) => found.slice(n * laid.length, (n + 1) * laid.length))
}

/** The same of one channel. */
export const useViews = (laid: readonly LaidRun[], name: string, range: Range): Views =>
  useViewsOf(laid, [name], range)[0]!

function viewOf(one: LaidRun, name: string, [from, to]: Range) {
  const channel = channelNamed(one, name)
  const range: [number, number] = [
    Math.max(0, from + (one.zero ?? 0)),
    Math.min(Math.max(one.run.duration_s, 1e-3), to + (one.zero ?? 0)),
  ]
  const grows = one.run.state === 'recording'
  return {
    queryKey: ['view', one.run.id, channel?.key ?? '', one.run.readings, PIXELS, ...range],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      fetchView(one.run.id, channel!.key, range, PIXELS, signal, one.run.readings),
    enabled: !!channel && isShown(one) && range[1] > range[0],
    placeholderData: keepPreviousData,
    staleTime: grows ? 0 : Infinity,
    refetchInterval: grows ? 2000 : (false as const),
  }
}
