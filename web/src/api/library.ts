import { infiniteQueryOptions, queryOptions } from '@tanstack/react-query'

import { client, got, ProblemError, type Schemas } from './client'
import { keep, queryClient } from './queries'
import type { paths } from './schema'

/** The sensor library: instruments as records of texts, certificates, tables in and out. */

export type LibraryLine = Schemas['LibraryLine']
export type Instrument = Schemas['InstrumentOut']
export type SensorKind = Schemas['SensorKindOut']
export type Imported = Schemas['ImportedOut']

export type Wanted = NonNullable<paths['/api/library']['get']['parameters']['query']>

/** The library by kind and serial, in pages. */
export const libraryQuery = (wanted: Wanted) =>
  infiniteQueryOptions({
    queryKey: ['library', wanted],
    queryFn: ({ pageParam: after }) =>
      got(client.GET('/api/library', { params: { query: { ...wanted, after, limit: 100 } } })),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => last.next ?? undefined,
    placeholderData: (before) => before,
  })

export const kindsQuery = queryOptions({
  queryKey: ['sensor-kinds'],
  queryFn: () => got(client.GET('/api/sensor-kinds')),
  staleTime: Infinity,
})

const at = (id: number) => ({ params: { path: { sensor_id: id } } })

export const instrumentQuery = (id: number) =>
  queryOptions({
    queryKey: ['library', 'one', id],
    queryFn: () => got(client.GET('/api/sensors/{sensor_id}', at(id))),
  })

async function kept(answer: Promise<Instrument>): Promise<Instrument> {
  const found = await answer
  await keep(instrumentQuery(found.id).queryKey, found)
  void queryClient.invalidateQueries({ queryKey: ['library'] })
  void queryClient.invalidateQueries({ queryKey: ['sensors'] })
  return found
}

type Record = { [name: string]: string }

export const addSensor = (record: Record) =>
  kept(got(client.POST('/api/sensors', { body: { record } })))

export const changeSensor = (id: number, record: Record) =>
  kept(got(client.PATCH('/api/sensors/{sensor_id}', { ...at(id), body: { record } })))

export const retireSensor = (id: number, restore: boolean) => {
  const params = { path: { sensor_id: id }, query: { restore } }
  return kept(got(client.POST('/api/sensors/{sensor_id}/retire', { params })))
}

export const addCertificate = (id: number, body: Schemas['CertificateIn']) =>
  kept(got(client.POST('/api/sensors/{sensor_id}/certificates', { ...at(id), body })))

const bytes = {
  bodySerializer: (body: unknown) => body as Blob,
  headers: { 'Content-Type': 'application/octet-stream' },
}

/** Give the instrument a picture, made small here: a camera's file has some megabytes. */
export async function givePicture(id: number, file: File): Promise<void> {
  const body = (await smaller(file)) as unknown as string
  await kept(got(client.PUT('/api/sensors/{sensor_id}/picture', { ...at(id), body, ...bytes })))
}

export const takePictureAway = (id: number) =>
  kept(got(client.DELETE('/api/sensors/{sensor_id}/picture', at(id))))

const MAX_SIDE = 800

/** At most 800 pixels long; what the browser cannot read is left to the server to refuse. */
async function smaller(file: File): Promise<Blob> {
  const image = await createImageBitmap(file).catch(() => null)
  if (!image) return file.slice(0, PART)
  const by = Math.min(1, MAX_SIDE / Math.max(image.width, image.height))
  const canvas = new OffscreenCanvas(
    Math.max(1, Math.round(image.width * by)),
    Math.max(1, Math.round(image.height * by)),
  )
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height)
  image.close()
  return canvas.convertToBlob({ type: 'image/webp', quality: 0.85 })
}

const PART = 192 * 1024

/** Send the certificate's own PDF, part by part. */
export async function attachFile(certificate: number, file: File): Promise<void> {
  const name = file.name.replace(/[/\\"]/g, '_').slice(-100)
  for (let from = 0; from === 0 || from < file.size; from += PART) {
    const params = {
      path: { certificate_id: certificate, at: from },
      query: { name, size: file.size },
    }
    const answer = client.PUT('/api/certificates/{certificate_id}/file/{at}', {
      params,
      body: file.slice(from, from + PART) as unknown as string,
      ...bytes,
    })
    await kept(got(answer))
  }
}

/** What a table of sensors would do, or, not `dry`, have it done. */
export async function importTable(file: File, dry: boolean): Promise<Imported[]> {
  if (file.size > PART)
    throw new ProblemError({ title: 'The file has more than 192 kB.', status: 422 })
  const answer = client.POST('/api/library/import', {
    params: { query: { dry } },
    body: file as unknown as string,
    ...bytes,
  })
  const found = await got(answer)
  if (!dry) {
    void queryClient.invalidateQueries({ queryKey: ['library'] })
    void queryClient.invalidateQueries({ queryKey: ['sensors'] })
  }
  return found
}
