import { afterEach, expect, it, vi } from 'vitest'

import { client, got, ProblemError } from './client'
import { fetchView } from './view'

afterEach(() => vi.unstubAllGlobals())

const answer = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })

it('turns a problem document into an error with its field and hint', async () => {
  const problem = {
    title: 'Width must be above 0.',
    status: 422,
    field: 'width_m',
    hint: 'Give it.',
  }
  const failing = got(Promise.resolve({ error: problem, response: answer(422, problem) }))
  await expect(failing).rejects.toMatchObject(problem)
})

it('says so in words when the server fails without a document', async () => {
  const failing = got(Promise.resolve({ error: 'oops', response: answer(500, 'oops') }))
  await expect(failing).rejects.toMatchObject({
    status: 500,
    title: 'The server could not do this.',
  })
  expect(ProblemError.of(new TypeError('fetch'))).toMatchObject({ status: 0 })
})

it('sends the token of the cookie with every request', async () => {
  document.cookie = 'csrftoken=secret123'
  const sent: Request[] = []
  await client.GET('/api/projects', {
    baseUrl: 'http://bench/',
    fetch: async (request) => {
      sent.push(request)
      return answer(200, [])
    },
  })
  expect(sent[0]!.headers.get('X-CSRFToken')).toBe('secret123')
})

it('reads a view: segments between what is missing', async () => {
  const segments = [
    { start_s: 5, step_s: 2.5, count: 1 },
    { start_s: 60, step_s: 2.5, count: 2 },
  ]
  const header = new TextEncoder().encode(JSON.stringify({ segments }))
  const size = Math.ceil(header.length / 4) * 4
  const buffer = new ArrayBuffer(4 + size + 24)
  new DataView(buffer).setUint32(0, size, true)
  new Uint8Array(buffer, 4, size).fill(32).set(header)
  new Float32Array(buffer, 4 + size).set([1, 2, 3, 4, 5, 6])
  const asked = vi.fn<(url: string) => Promise<Response>>(async () => new Response(buffer))
  vi.stubGlobal('fetch', asked)
  const found = await fetchView(9, 'force', [0, 100], 800)
  const url = '/api/runs/9/view?channel=force&from_s=0&to_s=100&pixels=800'
  expect(asked.mock.calls[0]![0]).toBe(url)
  expect(found.map((s) => [s.start, s.step, [...s.low], [...s.high]])).toEqual([
    [5, 2.5, [1], [4]],
    [60, 2.5, [2, 3], [5, 6]],
  ])
})
