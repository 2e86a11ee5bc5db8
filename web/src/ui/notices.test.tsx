import { act } from 'react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import { ProblemError } from '../api/client'
import { attempt, complain, say } from './notices'
import { Notices } from './Notices'
import { render } from './testing'

beforeEach(() => vi.useFakeTimers())
afterEach(async () => {
  await act(async () => vi.advanceTimersByTime(10_000))
  document.querySelectorAll<HTMLElement>('[aria-label=Close]').forEach((b) => b.click())
  vi.useRealTimers()
})

const problem = new ProblemError({ title: 'Nobody holds the yoke.', status: 409, hint: 'Take it.' })

it('good news goes by itself, bad news stays until it is read', async () => {
  const box = await render(<Notices />)
  await act(async () => {
    say('Zeroed 3 channels.')
    complain(problem)
  })
  expect(box.textContent).toContain('Zeroed 3 channels.')
  await act(async () => vi.advanceTimersByTime(5000))
  expect(box.textContent).not.toContain('Zeroed')
  expect(box.querySelector('[role=alert]')!.textContent).toContain('Nobody holds the yoke.Take it.')
  await act(async () => box.querySelector<HTMLElement>('[aria-label=Close]')!.click())
  expect(box.querySelector('[role=alert]')).toBeNull()
})

it('says the same trouble once', async () => {
  const box = await render(<Notices />)
  await act(async () => {
    complain(problem)
    complain(problem)
  })
  expect(box.querySelectorAll('[role=alert]')).toHaveLength(1)
})

it('an action that fails gives nothing and a notice', async () => {
  const box = await render(<Notices />)
  let result: unknown = 'untouched'
  await act(async () => {
    result = await attempt(Promise.reject(problem))
  })
  expect(result).toBeUndefined()
  expect(box.querySelectorAll('[role=alert]')).toHaveLength(1)
})
