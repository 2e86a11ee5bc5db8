import {
  infiniteQueryOptions,
  type Query,
  QueryCache,
  QueryClient,
  queryOptions,
  useInfiniteQuery,
  useQuery,
} from '@tanstack/react-query'

import { client, actionsPending, got, ProblemError, type Schemas } from './client'
import { asShown } from '../ui/display'
import { learnUnit, learnUnits } from '../ui/units'
import { useList } from './list'

/** A session that has ended shows the sign-in page, wherever that is noticed. */
function onQueryError(error: unknown, key: readonly unknown[]): void {
  if (ProblemError.of(error).status === 401 && key[0] !== 'session')
    void queryClient.resetQueries({ queryKey: ['session'] })
}

/** The server was not reached, or had a fault of its own: the same may work a moment later. */
function mayPass(error: unknown): boolean {
  const { status } = ProblemError.of(error)
  return status === 0 || status >= 500
}

export const queryClient: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: (error, query) => onQueryError(error, query.queryKey) }),
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      retry: (count, error) => count < 3 && mayPass(error),
    },
  },
})

const byId = (name: string, id: number) => ({ params: { path: { [name]: id } as never } })

export const sessionQuery = queryOptions({
  queryKey: ['session'],
  queryFn: () => got(client.GET('/api/session')),
  staleTime: Infinity,
  retry: false,
})
/** Projects in pages, the newest first. */
export const projectsQuery = (archived: boolean) =>
  infiniteQueryOptions({
    queryKey: ['projects', archived ? 'archived' : 'open'],
    queryFn: ({ pageParam: before }) =>
      got(client.GET('/api/projects', { params: { query: { archived, before } } })),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => last.next ?? undefined,
    staleTime: 0,
  })
/** Those in which each word stands somewhere. */
export const foundProjectsQuery = (search: string) =>
  queryOptions({
    queryKey: ['projects', 'found', search],
    queryFn: () => got(client.GET('/api/projects', { params: { query: { search } } })),
    staleTime: 0,
    placeholderData: (before) => before,
  })
/** Benches by name, as many as one list shows. */
export const benchesQuery = (wanted: { archived?: boolean; search?: string }) =>
  queryOptions({
    queryKey: ['benches', wanted],
    queryFn: () =>
      got(client.GET('/api/benches', { params: { query: { ...wanted, limit: 100 } } })),
    staleTime: 0,
    placeholderData: (before) => before,
  })
export const driversQuery = queryOptions({
  queryKey: ['drivers'],
  queryFn: () => got(client.GET('/api/drivers')),
  staleTime: Infinity,
})
export const setupPresetsQuery = queryOptions({
  queryKey: ['kinds of test'],
  queryFn: () => got(client.GET('/api/setup-presets')),
  staleTime: Infinity,
})
export const welcomeQuery = queryOptions({
  queryKey: ['welcome'],
  queryFn: () => got(client.GET('/api/welcome')),
})
export const unitsQuery = queryOptions({
  queryKey: ['units'],
  queryFn: async () => {
    const units = await got(client.GET('/api/units'))
    learnUnits(units)
    return units
  },
  staleTime: Infinity,
})
/** Sensors in use, of all or of those whose signal an input measures. */
export const sensorsQuery = (search: string, signal = '') =>
  queryOptions({
    queryKey: ['sensors', search, signal],
    queryFn: () =>
      got(client.GET('/api/sensors', { params: { query: { search, signal, limit: 100 } } })),
    placeholderData: (before) => before,
  })
/** A setup as oneself sees it; the units of its computed channels are known from here on. */
export function learnt(setup: Schemas['SetupOut']): Schemas['SetupOut'] {
  for (const { unit, factor, offset } of setup.computed) learnUnit(unit, factor, offset)
  return { ...setup, channels: setup.channels.map((c) => asShown(c)) }
}
export const setupQuery = (id: number) =>
  queryOptions({
    queryKey: ['setup', id],
    queryFn: async () =>
      learnt(await got(client.GET('/api/setups/{setup_id}', byId('setup_id', id)))),
  })
/** The table of steps of a run; while it is recorded it grows. */
export const stepsQuery = (run_id: number | undefined, grows: boolean) =>
  queryOptions({
    queryKey: ['runs', 'steps', run_id],
    queryFn: () => got(client.GET('/api/runs/{run_id}/steps', byId('run_id', run_id!))),
    enabled: run_id !== undefined,
    refetchInterval: grows ? 3000 : false,
    staleTime: 0,
  })
/** Runs of a setup that were discarded, as many as one list shows. */
export const discardedQuery = (setup_id: number) =>
  queryOptions({
    queryKey: ['runs', setup_id, 'discarded'],
    queryFn: () => {
      const params = { path: { setup_id }, query: { discarded: true, limit: 100 } }
      return got(client.GET('/api/setups/{setup_id}/runs', { params }))
    },
  })
/** What a channel makes of its signal; asked for anew whenever what makes it has changed. */
export const curveQuery = (c: Schemas['ChannelOut']) =>
  queryOptions({
    queryKey: ['curve', c.id, c.scaling, c.wiring, c.conditioning, c.polarity, c.zero, c.tare],
    queryFn: () => got(client.GET('/api/channels/{channel_id}/curve', byId('channel_id', c.id))),
    enabled: !c.scaling_problem,
    staleTime: Infinity,
  })
/** Versions of a setup; a new one is another list. */
export const revisionsQuery = (id: number, version: number, before?: number) =>
  queryOptions({
    queryKey: ['revisions', id, version, before],
    queryFn: () => {
      const params = { path: { setup_id: id }, query: { before } }
      return got(client.GET('/api/setups/{setup_id}/revisions', { params }))
    },
  })
/** A setup's wiring sheet, or null where none was made yet; looked at again while `waiting`. */
export const sheetQuery = (id: number, channel: string, waiting: boolean) =>
  queryOptions({
    queryKey: ['sheet', id, channel],
    queryFn: () => {
      const params = { ...byId('setup_id', id).params, query: { channel } }
      const sheet = got(client.GET('/api/setups/{setup_id}/wiring-sheet', { params }))
      return sheet.catch((error: unknown) => {
        if (ProblemError.of(error).status === 404) return null
        throw error
      })
    },
    refetchInterval: (query) => (waiting && !query.state.data?.made_at ? 2000 : false),
  })
export const benchQuery = (id: number) =>
  queryOptions({
    queryKey: ['bench', id],
    queryFn: () => got(client.GET('/api/benches/{bench_id}', byId('bench_id', id))),
  })
const ofSetup = (setup_id: number, query: { before?: number; search?: string }) => ({
  params: { path: { setup_id }, query: { limit: 100, ...query } },
})
/** Runs of a setup in pages, the newest first. */
const runsQuery = (setupId: number) =>
  infiniteQueryOptions({
    queryKey: ['runs', setupId, 'all'],
    queryFn: ({ pageParam: before }) =>
      got(client.GET('/api/setups/{setup_id}/runs', ofSetup(setupId, { before }))),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => last.next ?? undefined,
  })
export const foundRunsQuery = (setupId: number, search: string) =>
  queryOptions({
    queryKey: ['runs', setupId, 'found', search],
    queryFn: () => got(client.GET('/api/setups/{setup_id}/runs', ofSetup(setupId, { search }))),
    placeholderData: (before) => before,
  })
export const useRuns = (setupId: number) => useList(useInfiniteQuery(runsQuery(setupId)))
export const markersQuery = (runId: number) =>
  queryOptions({
    queryKey: ['runs', 'markers', runId],
    queryFn: () => got(client.GET('/api/runs/{run_id}/markers', byId('run_id', runId))),
  })
export const blocksQuery = (runId: number) =>
  queryOptions({
    queryKey: ['blocks', runId],
    queryFn: () => got(client.GET('/api/runs/{run_id}/blocks', byId('run_id', runId))),
    staleTime: 0,
  })
const reportsQuery = (setupId: number) =>
  infiniteQueryOptions({
    queryKey: ['reports', setupId, 'all'],
    queryFn: ({ pageParam: before }) =>
      got(client.GET('/api/setups/{setup_id}/reports', ofSetup(setupId, { before }))),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => last.next ?? undefined,
  })
export const foundReportsQuery = (setupId: number, search: string) =>
  queryOptions({
    queryKey: ['reports', setupId, 'found', search],
    queryFn: () => got(client.GET('/api/setups/{setup_id}/reports', ofSetup(setupId, { search }))),
    placeholderData: (before) => before,
  })
export const useReports = (setupId: number) => useList(useInfiniteQuery(reportsQuery(setupId)))
export type Right = Schemas['Person']['may'][number]
/** Whether the signed-in person's role allows an action. */
export function useMay(action: Right): boolean {
  return useQuery(sessionQuery).data?.may.includes(action) ?? false
}

/**
 * Show the answer of an action at once. A read that is under way may have read what was before it,
 * and would show that again: it is made anew.
 */
export async function keep<T>(queryKey: readonly unknown[], answer: T): Promise<void> {
  const one = { queryKey, exact: true }
  const reading = queryClient.isFetching(one) > 0
  await queryClient.cancelQueries(one)
  queryClient.setQueryData(queryKey, answer)
  if (reading) void queryClient.invalidateQueries(one)
}

const OWN_ACTION = 300 // ms in which an action of one's own is answered

/** Reload what a piece of news from the server says has changed. */
export function onNews(news: Schemas['News']): void {
  if (news.setup && news.version) return onVersion(news.setup, news.version)
  const keys: Record<Schemas['News']['kind'], string[]> = {
    setup: ['setup'],
    bench: ['bench', 'setup'],
    run: ['runs', 'setup', 'readings', 'derivations', 'series', 'reports'],
    recipe: ['derivations', 'series', 'reports'],
    result: ['setup', 'derivations', 'series'],
    report: ['reports', 'setup'],
    readings: ['readings', 'views of computed'],
    calibration: ['calibrations', 'calibration'],
    library: ['library', 'sensors'],
    sheet: ['sheet'],
    reload: ['setup', 'bench', 'runs', 'derivations', 'series', 'reports', 'projects'],
  }
  for (const key of keys[news.kind]) reload([key])
}

/** A setup has changed; if that was one's own action, its answer is on the way and shows it. */
function onVersion(setup: number, version: number): void {
  const { queryKey } = setupQuery(setup)
  const look = () => {
    const shown = queryClient.getQueryData(queryKey)
    if (!shown || shown.version < version) reload(queryKey)
  }
  if (actionsPending()) setTimeout(look, OWN_ACTION)
  else look()
}

/** What is shown of these is read anew. */
function reload(queryKey: readonly unknown[]): void {
  const underWay = { queryKey, fetchStatus: 'fetching' } as const
  for (const query of queryClient.getQueryCache().findAll(underWay)) void readOnceMore(query)
  void queryClient.invalidateQueries({ queryKey }, { cancelRefetch: false })
}

const toBeRead = new Set<string>()

/**
 * A read that is under way may have read what was before the news: another one follows it. One,
 * however many news come meanwhile.
 */
async function readOnceMore(query: Query): Promise<void> {
  if (toBeRead.has(query.queryHash)) return
  toBeRead.add(query.queryHash)
  await Promise.allSettled([query.promise])
  toBeRead.delete(query.queryHash)
  void queryClient.invalidateQueries({ queryKey: query.queryKey, exact: true })
}
