import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import { client } from './client'
import { emergencyStopAll, startOrStop } from './deeds'

/** Requests to the bench, each answered when the test says so. */
let asked: string[]
let answers: ((data: unknown) => void)[]

const ask = (url: string, { params }: { params?: { path?: Record<string, number> } } = {}) => {
  asked.push(url.replace(/{(\w+)}/g, (_, name: string) => String(params?.path?.[name])))
  return new Promise((resolve) =>
    answers.push((data) => resolve({ data, response: new Response(null, { status: 200 }) })),
  )
}

beforeEach(() => {
  asked = []
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
  const first = startOrStop(1, 7, false)
  const second = startOrStop(1, 7, false)
  expect(asked).toEqual(['/api/setups/1/runs', '/api/benches/7/stop'])
  await answerAll({})
  await Promise.all([first, second])
})

it('F8 on a bench that is busy stops it', async () => {
  const stop = startOrStop(1, 7, true)
  expect(asked).toEqual(['/api/benches/7/stop'])
  await answerAll({})
  await stop
})

it.each([
  [
    [false, false],
    [1, 2],
  ],
  [[false, true], [2]],
])(
  'Esc Esc away from a bench stops what this person drives, or else all',
  async (mine, stopped) => {
    const deed = emergencyStopAll()
    await answerAll(mine.map((yoke_mine, i) => ({ id: i + 1, name: `Bench ${i}`, yoke_mine })))
    expect(asked.slice(1)).toEqual(stopped.map((id) => `/api/benches/${id}/emergency-stop`))
    await answerAll(null)
    await deed
  },
)
