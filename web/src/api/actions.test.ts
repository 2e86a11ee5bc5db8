import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import { client } from './client'
import { queryClient } from './queries'
import { setup } from '../ui/testing-data'
import {
  emergencyStopAll,
  keepSetup,
  returnForNext,
  startOrStop,
  startPull,
  stopBench,
} from './actions'

const bench7 = setup({ bench_id: 7 })

/** Requests to the bench, each answered when the test says so. */
let asked: string[]
let bodies: unknown[]
let answers: ((data: unknown) => void)[]

interface Asked {
  params?: { path?: Record<string, number> }
  body?: unknown
}
const ask = (url: string, { params, body }: Asked = {}) => {
  bodies.push(body)
  asked.push(url.replace(/{(\w+)}/g, (_, name: string) => String(params?.path?.[name])))
  return new Promise((resolve) =>
    answers.push((data) => resolve({ data, response: new Response(null, { status: 200 }) })),
  )
}

beforeEach(() => {
  asked = []
  bodies = []
  queryClient.clear()
  answers = []
  vi.spyOn(client, 'POST').mockImplementation(ask as never)
  vi.spyOn(client, 'GET').mockImplementation(ask as never)
})
afterEach(() => vi.restoreAllMocks())

const answerAll = async (data: unknown) => {
  while (answers.length) answers.shift()!(data)
  await new Promise((done) => setTimeout(done, 0))
}

it('F8 twice within a second: the second stops, whatever the screen showed', async () => {
  const first = startOrStop(bench7, false)
  const second = startOrStop(bench7, false)
  expect(asked).toEqual(['/api/setups/1/runs', '/api/benches/7/stop'])
  await answerAll({})
  await Promise.all([first, second])
})

it('F8 on a bench that is busy stops it', async () => {
  const stop = startOrStop(bench7, true)
  expect(asked).toEqual(['/api/benches/7/stop'])
  await answerAll({})
  await stop
})

it('the next specimen gets its name once the actuator was told to return', async () => {
  vi.spyOn(client, 'PATCH').mockImplementation(ask as never)
  const action = returnForNext(setup({ bench_id: 7, next_specimen: 'C2' }))
  expect(asked).toEqual(['/api/benches/7/return'])
  await answerAll(undefined)
  expect(asked[1]).toBe('/api/setups/1')
  await answerAll(setup())
  await action
})

it('Esc Esc away from a bench is one order, which no read goes before', async () => {
  const action = emergencyStopAll()
  expect(asked).toEqual(['/api/emergency-stop'])
  await answerAll(null)
  await action
})

/** A change of one's own that is on its way; what answers it. */
function changing() {
  let answer: (data: unknown) => void = () => {}
  const sent = client.PATCH('/api/setups/{setup_id}', {
    params: { path: { setup_id: 1 } },
    body: {},
    baseUrl: 'http://bench/',
    fetch: () =>
      new Promise((resolve) => {
        const headers = { 'Content-Type': 'application/json' }
        answer = (data) => resolve(new Response(JSON.stringify(data), { headers }))
      }),
  })
  const shown = sent.then(({ data }) => keepSetup(data!))
  return { answer: (data: unknown) => answer(data), shown }
}
const soon = () => new Promise((done) => setTimeout(done, 60))

it('a start waits for a change of one’s own, and names the version that it made', async () => {
  const change = changing()
  await soon()
  const action = startPull(setup({ version: 3 }))
  await soon()
  expect(asked).toEqual([])
  change.answer(setup({ version: 4 }))
  await change.shown
  await vi.waitFor(() => expect(asked).toEqual(['/api/setups/1/runs']))
  expect(bodies).toEqual([{ version: 4, pull: true, is_dry: false, accepted: [], answers: {} }])
  await answerAll({})
  await action
})

it('a stop that is given while a start waits is the end of it', async () => {
  const change = changing()
  await soon()
  const action = startPull(setup({ version: 3 }))
  await soon()
  void stopBench(7)
  change.answer(setup({ version: 4 }))
  await change.shown
  await action
  expect(asked).toEqual(['/api/benches/7/stop'])
  await answerAll({})
})
