/** Making, copying and putting away of projects, setups and benches. Errors go to the caller. */

import { queryOptions } from '@tanstack/react-query'

import { client, got, ProblemError, type Schemas } from './client'
import { queryClient } from './queries'

export type Project = Schemas['ProjectOut']
export type SetupLine = Schemas['SetupLine']

const of = (id: number) => ({ params: { path: { project_id: id } } })
const reload = async <T>(answer: Promise<T>): Promise<T> => {
  const found = await answer
  await queryClient.invalidateQueries({ queryKey: ['projects'] })
  await queryClient.invalidateQueries({ queryKey: ['benches'] })
  return found
}

export const createProject = (body: Schemas['ProjectIn']) =>
  reload(got(client.POST('/api/projects', { body })))

export const changeProject = (id: number, body: Schemas['ProjectChange']) =>
  reload(got(client.PATCH('/api/projects/{project_id}', { ...of(id), body })))

export function archiveProject(id: number, restore: boolean) {
  const params = { ...of(id).params, query: { restore } }
  return reload(got(client.POST('/api/projects/{project_id}/archive', { params })))
}

export const duplicateProject = (id: number) =>
  reload(got(client.POST('/api/projects/{project_id}/duplicate', of(id))))

export const addSetup = (id: number, body: Schemas['SetupIn']) =>
  reload(got(client.POST('/api/projects/{project_id}/setups', { ...of(id), body })))

export const beginWithTemplate = (id: number, body: Schemas['FromTemplate']) =>
  reload(got(client.POST('/api/projects/{project_id}/setups/from-template', { ...of(id), body })))

/** A setup from a file that another one was exported to. */
export async function importSetup(
  id: number,
  bench_id: number,
  name: string,
  file: File,
): Promise<void> {
  let document: { [key: string]: unknown }
  try {
    document = JSON.parse(await file.text()) as typeof document
  } catch {
    throw new ProblemError({
      title: `${file.name} is no JSON.`,
      hint: 'Choose a file that a setup was exported to.',
      status: 422,
    })
  }
  const body = { bench_id, name, document }
  await reload(got(client.POST('/api/projects/{project_id}/setups/import', { ...of(id), body })))
}

export const templatesQuery = queryOptions({
  queryKey: ['templates'],
  queryFn: () => got(client.GET('/api/templates')),
})

/** Keep a setup to begin others with. */
export async function keepTemplate(setup: number, name: string): Promise<void> {
  const path = { params: { path: { setup_id: setup } } }
  await got(client.POST('/api/setups/{setup_id}/template', { ...path, body: { name } }))
  await queryClient.invalidateQueries({ queryKey: ['templates'] })
}

export async function removeTemplate(id: number): Promise<void> {
  const path = { params: { path: { template_id: id } } }
  await got(client.DELETE('/api/templates/{template_id}', path))
  await queryClient.invalidateQueries({ queryKey: ['templates'] })
}

export function duplicateSetup(id: number) {
  const path = { params: { path: { setup_id: id } } }
  return reload(got(client.POST('/api/setups/{setup_id}/duplicate', path)))
}

/** For good; one that has runs stays. */
export function deleteSetup(id: number) {
  const path = { params: { path: { setup_id: id } } }
  return reload(got(client.DELETE('/api/setups/{setup_id}', path)))
}

export const createBench = (name: string) =>
  reload(got(client.POST('/api/benches', { body: { name } })))

const bench = (id: number) => ({ params: { path: { bench_id: id } } })

export function archiveBench(id: number, restore: boolean) {
  const params = { ...bench(id).params, query: { restore } }
  return reload(got(client.POST('/api/benches/{bench_id}/archive', { params })))
}

/** With its devices; one that a setup is made for stays. */
export const removeBench = (id: number) =>
  reload(got(client.DELETE('/api/benches/{bench_id}', bench(id))))

export async function putDevice(benchId: number, body: Schemas['DeviceIn']): Promise<void> {
  const path = { params: { path: { bench_id: benchId } } }
  await reload(got(client.PUT('/api/benches/{bench_id}/devices', { ...path, body })))
  await queryClient.invalidateQueries({ queryKey: ['bench', benchId] })
}

export async function removeDevice(benchId: number, deviceId: number): Promise<void> {
  const path = { params: { path: { device_id: deviceId } } }
  await reload(got(client.DELETE('/api/devices/{device_id}', path)))
  await queryClient.invalidateQueries({ queryKey: ['bench', benchId] })
}
