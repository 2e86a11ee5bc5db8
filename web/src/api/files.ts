import { queryOptions } from '@tanstack/react-query'

import { client, got, ProblemError, type Schemas } from './client'

/** Files that are imported as runs: sent in parts, previewed, made a run. */

export type ReadFile = Schemas['FileOut']
export type ImportPreview = Schemas['ImportPreviewOut']
export type ColumnChoice = Schemas['ColumnChoice']
/** What is left out is guessed. */
export type Choices = Partial<Schemas['Choices']>
type Body = Schemas['Choices']

const PART = 192 * 1024
const TRIES = 20
const PAUSE = 1000 // ms

const at = (key: string) => ({ params: { path: { key } } })

export const fileState = (key: string) => got(client.GET('/api/files/{key}', at(key)))

export const dropFile = (key: string) => got(client.DELETE('/api/files/{key}', at(key)))

export const makeRun = (key: string, body: Choices) =>
  got(client.POST('/api/files/{key}/run', { ...at(key), body: body as Body }))

export const previewQuery = (key: string, choices: Choices) =>
  queryOptions({
    queryKey: ['look', key, choices],
    queryFn: () =>
      got(client.POST('/api/files/{key}/preview', { ...at(key), body: choices as Body })),
    staleTime: Infinity,
  })

/** Send a file part by part; where the link breaks, go on from what has arrived. */
export async function sendFile(
  setupId: number,
  file: File,
  progress: (share: number) => void,
): Promise<ReadFile> {
  const announced = client.POST('/api/setups/{setup_id}/files', {
    params: { path: { setup_id: setupId } },
    body: { name: file.name.slice(-120), size: file.size },
  })
  let state = await got(announced)
  let failures = 0
  while (state.received < state.size) {
    try {
      state = await sendPart(state, file)
      failures = 0
    } catch (error) {
      if (ProblemError.of(error).status !== 0 || ++failures > TRIES) throw error
      await new Promise((resolve) => setTimeout(resolve, PAUSE))
      state = await fileState(state.key).catch(() => state)
    }
    progress(state.received / state.size)
  }
  return state
}

const sendPart = ({ key, received }: ReadFile, file: File) =>
  got(
    client.PUT('/api/files/{key}/parts/{at}', {
      params: { path: { key, at: received } },
      body: file.slice(received, received + PART) as unknown as string,
      bodySerializer: (blob: unknown) => blob as Blob,
      headers: { 'Content-Type': 'application/octet-stream' },
    }),
  )
