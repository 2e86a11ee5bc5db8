/** Making, copying and putting away of projects, setups and benches. Errors go to the caller. */

import { client, got, type Schemas } from './client'
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

export function duplicateSetup(id: number) {
  const path = { params: { path: { setup_id: id } } }
  return reload(got(client.POST('/api/setups/{setup_id}/duplicate', path)))
}

export const createBench = (name: string) =>
  reload(got(client.POST('/api/benches', { body: { name } })))

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
