import { act, useEffect, useState } from 'react'
import { expect, it, vi } from 'vitest'

import { render, type } from '../ui/testing'
import { Search, type Entry } from './FindDialog'

const taken = vi.fn()
let arrive: (entries: Entry[]) => void

const entry = (words: string): Entry => ({ kind: 'project', words, act: () => taken(words) })

/** A search whose entries arrive later. */
function Arriving() {
  const [entries, setEntries] = useState<Entry[] | null>(null)
  const [open, setOpen] = useState(true)
  useEffect(() => {
    arrive = setEntries
  }, [])
  return open && <Search entries={entries ?? []} reading={!entries} close={() => setOpen(false)} />
}

it('an Enter before the entries have come takes what they bring', async () => {
  const box = await render(<Arriving />)
  await type(box.querySelector('input')!, 'coupons tension', 'Enter')
  expect(box.textContent).toContain('Reading what there is.')
  await act(async () => arrive([entry('Coupons / Fatigue'), entry('Coupons / Tension')]))
  expect(taken.mock.calls).toEqual([['Coupons / Tension']])
  expect(box.querySelector('input')).toBeNull()
})

it('who types on after an Enter has not entered that', async () => {
  taken.mockClear()
  const box = await render(<Arriving />)
  const input = box.querySelector('input')!
  await type(input, 'coupons', 'Enter')
  await type(input, 'coupons f', 'Shift')
  await act(async () => arrive([entry('Coupons / Fatigue')]))
  expect(taken).not.toHaveBeenCalled()
})

it('an Enter whose name nothing has is forgotten', async () => {
  taken.mockClear()
  const box = await render(<Arriving />)
  await type(box.querySelector('input')!, 'sensor', 'Enter')
  await act(async () => arrive([entry('Coupons / Fatigue')]))
  expect(box.textContent).toContain('Nothing is called that.')
  await act(async () => arrive([entry('Sensor 7')]))
  expect(taken).not.toHaveBeenCalled()
})
