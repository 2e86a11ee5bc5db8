/** Runs laid over each other: which there are, their instants, windows, and named pages. */

import { keepPreviousData, queryOptions } from '@tanstack/react-query'

import { client, got, type Schemas } from './client'
import { queryClient } from './queries'

export type CurvesPage = Schemas['CurvesSpec']
export type DrawnRun = CurvesPage['runs'][number]
export type Alignment = CurvesPage['align']
export type WindowFound = Schemas['WindowOut']
export type WindowRow = Schemas['WindowRow']
export type Aligned = Schemas['AlignedOut']

const ofProject = (project_id: number) => ({ path: { project_id } })

/** The newest runs of a project in which each word stands. */
export const projectRunsQuery = (project: number, search: string) =>
  queryOptions({
    queryKey: ['runs', 'project', project, search],
    queryFn: () =>
      got(
        client.GET('/api/projects/{project_id}/runs', {
          params: { ...ofProject(project), query: { search, limit: 100 } },
        }),
      ),
    placeholderData: keepPreviousData,
  })

/** The instant of each run; again when a run is read otherwise. */
export const alignmentQuery = (runs: readonly number[], align: Alignment, versions: string) =>
  queryOptions({
    queryKey: ['alignment', runs, align, versions],
    queryFn: () =>
      got(
        client.POST('/api/curves/alignment', { body: { runs: [...runs], align: align as never } }),
      ),
    placeholderData: keepPreviousData,
  })

export interface RunWindow {
  run: number
  from_s: number
  to_s: number
}

export const windowQuery = (
  windows: readonly RunWindow[],
  channel: string,
  leftOut: readonly number[],
  versions: string,
) =>
  queryOptions({
    queryKey: ['curve window', windows, channel, leftOut, versions],
    queryFn: () =>
      got(
        client.POST('/api/curves/window', {
          body: { windows: [...windows], channel, left_out: [...leftOut] },
        }),
      ),
    enabled: windows.length > 0 && channel !== '',
    placeholderData: keepPreviousData,
  })

export const curvePagesQuery = (project: number) =>
  queryOptions({
    queryKey: ['curve pages', project],
    queryFn: () =>
      got(
        client.GET('/api/projects/{project_id}/curve-pages', {
          params: ofProject(project),
        }),
      ),
  })

const reload = (project: number) =>
  queryClient.invalidateQueries({ queryKey: curvePagesQuery(project).queryKey })

export async function keepCurvePage(project: number, name: string, page: CurvesPage) {
  const body = { name, page: page as never }
  await got(
    client.PUT('/api/projects/{project_id}/curve-pages', { params: ofProject(project), body }),
  )
  await reload(project)
}

export async function removeCurvePage(project: number, page_id: number) {
  await got(client.DELETE('/api/curve-pages/{page_id}', { params: { path: { page_id } } }))
  await reload(project)
}
