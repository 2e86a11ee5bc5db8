import { queryOptions } from '@tanstack/react-query'

import { client, got, type Schemas } from './client'
import { queryClient } from './queries'

/** Devices of a bench: found on the network, tried at an address, written as text. */

export type Found = Schemas['DiscoveredDevice']
export type Trial = Schemas['TrialOut']
export type Address = Schemas['AddressIn']

const at = (bench: number) => ({ params: { path: { bench_id: bench } } })

/** What answers on the network of the bench's computer; takes some seconds. */
export const findDevices = (bench: number) =>
  got(client.POST('/api/benches/{bench_id}/find', at(bench))).then((found) => found.devices)

export const tryAddress = (bench: number, body: Address) =>
  got(client.POST('/api/benches/{bench_id}/try', { ...at(bench), body }))

export const benchTextQuery = (bench: number) =>
  queryOptions({
    queryKey: ['bench-text', bench],
    queryFn: () => got(client.GET('/api/benches/{bench_id}/file', at(bench))).then((f) => f.text),
  })

export const previewBench = (bench: number, text: string) =>
  got(client.POST('/api/benches/{bench_id}/file/preview', { ...at(bench), body: { text } })).then(
    (found) => found.changes,
  )

/** Make the bench have the devices of a text, as a whole or not at all. */
export async function readBench(bench: number, text: string): Promise<string[]> {
  const path = '/api/benches/{bench_id}/file'
  const { changes } = await got(client.PUT(path, { ...at(bench), body: { text } }))
  await queryClient.invalidateQueries({ queryKey: ['bench', bench] })
  await queryClient.invalidateQueries({ queryKey: ['bench-text', bench] })
  return changes
}
