import { beforeEach, expect, it, vi } from 'vitest'

import type { LibraryLine, Wanted } from '../api/library'
import { pressed } from '../ui/testing'
import { serve, settled, show, signIn } from '../ui/testing-api'
import { channel, setup } from '../ui/testing-data'
import { Library } from './Library'

vi.mock('../frame/stage', () => ({ useStage: () => ({ setup: setup(), bench: { devices: [] } }) }))
vi.mock('./InstrumentPanel', () => ({
  InstrumentPanel: ({ id }: { id: number }) => <p data-panel>instrument {id}</p>,
}))

const line = (id: number, over: Partial<LibraryLine> = {}): LibraryLine => ({
  ...channel().sensor,
  id,
  serial: `LC-${id}`,
  where: '',
  place: 'cabinet 2',
  retired_at: null,
  calibrations: 1,
  record: { rated_output: '2.0', capacity: '25 kN' },
  ...over,
})
const KIND = { name: 'load cell', quantity: 'force', unit: 'kN', connections: [] }
const counts = {
  all: 3,
  kind: { 'load cell': 3 },
  status: { overdue: 1, soon: 0, 'in force': 2, without: 0 },
  where: { bench: 1, store: 2 },
}

/** The library by what is wanted of it, in pages of two. */
function library(lines: LibraryLine[]) {
  const wanted: Wanted[] = []
  serve({
    'GET /api/sensor-kinds': [KIND],
    'GET /api/library': (init: { params: { query: Wanted & { after?: number } } }) => {
      const { query } = init.params
      wanted.push(query)
      const some = lines.filter((l) => l.serial.includes(query.search ?? ''))
      const from = query.after ?? 0
      const next = from + 2 < some.length ? from + 2 : null
      return { items: some.slice(from, from + 2), next, count: some.length, counts }
    },
  })
  return wanted
}

beforeEach(() => signIn('keep the library'))

it('shows what an instrument gives and where it is, and the first one at the right', async () => {
  library([line(1, { where: 'A1.1 F' }), line(2)])
  const box = await show(<Library view={null} />)
  const rows = [...box.querySelectorAll('tr[aria-selected]')].map((r) => r.textContent)
  expect(rows[0]).toContain('2.0 mV/V at 25 kN')
  expect(rows[0]).toContain('A1.1 F')
  expect(rows[1]).toContain('cabinet 2')
  expect(box.querySelector('[data-panel]')!.textContent).toBe('instrument 1')
  await pressed(box, 'LC-2')
  expect(box.querySelector('[data-panel]')!.textContent).toBe('instrument 2')
})

it('more instruments are read when they are asked for', async () => {
  const wanted = library([line(1), line(2), line(3)])
  const box = await show(<Library view={null} />)
  expect(box.querySelectorAll('tr[aria-selected]')).toHaveLength(2)
  await pressed(box, 'More instruments')
  await settled()
  expect(box.querySelectorAll('tr[aria-selected]')).toHaveLength(3)
  expect(wanted.at(-1)!).toMatchObject({ after: 2 })
  expect(box.textContent).not.toContain('More instruments')
})

it('a filter at the left asks the server, which counts without it', async () => {
  const wanted = library([line(1)])
  const box = await show(<Library view={null} />)
  await pressed(box, 'Overdue')
  await settled()
  expect(wanted.at(-1)!).toMatchObject({ status: 'overdue' })
  expect(box.textContent).toContain('1 overdue')
})

it('is only read by who may not keep it', async () => {
  signIn()
  library([line(1)])
  const box = await show(<Library view={null} />)
  const buttons = [...box.querySelectorAll('button')].map((b) => b.textContent)
  expect(buttons).not.toContain('New instrument')
  expect(buttons).not.toContain('Import')
  expect(box.querySelector('a[href="/api/library.csv"]')).not.toBeNull()
})
