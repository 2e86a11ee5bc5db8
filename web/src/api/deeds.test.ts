import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import { emergencyStopAll, startOrStop } from './deeds'

/** Requests to the bench, each answered when the test says so. */
let asked: string[]
let answers: ((body: unknown) => void)[]

beforeEach(() => {
  asked = []
  answers = []
  vi.stubGlobal('fetch', (request: Request) => {
    asked.push(`${request.method} ${new URL(request.url).pathname}`)
    return new Promise((resolve) =>
      answers.push((body) => resolve(new Response(JSON.stringify(body), { status: 200 }))),
    )
  })
})
afterEach(() => vi.unstubAllGlobals())

const answerAll = async (body: unknown) => {
  while (answers.length) {
    answers.shift()!(body)
    await vi.waitFor(() => undefined)
    await new Promise((done) => setTimeout(done, 0))
  }
}

it('F8 twice within a second: the second stops, whatever the screen showed', async () => {
  const first = startOrStop(1, 7, false)
  const second = startOrStop(1, 7, false)
  expect(asked).toEqual(['POST /api/setups/1/runs', 'POST /api/benches/7/stop'])
  await answerAll({})
  await Promise.all([first, second])
})

it('F8 on a bench that is busy stops it', async () => {
  const stop = startOrStop(1, 7, true)
  expect(asked).toEqual(['POST /api/benches/7/stop'])
  await answerAll({})
  await stop
})

it.each([
  [[false, false], [1, 2]],
  [[false, true], [2]],
])('Esc Esc away from a bench stops what this person drives, or else all', async (mine, stopped) => {
  const deed = emergencyStopAll()
  await answerAll(mine.map((yoke_mine, i) => ({ id: i + 1, name: `Bench ${i}`, yoke_mine })))
  await answerAll(null)
  await deed
  expect(asked.slice(1)).toEqual(stopped.map((id) => `POST /api/benches/${id}/emergency-stop`))
})
