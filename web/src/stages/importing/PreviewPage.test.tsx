import { beforeEach, expect, it, vi } from 'vitest'

import type { ImportPreview } from '../../api/files'
import { pressed } from '../../ui/testing'
import {
  actionsIn,
  addressIn,
  choose,
  Problem,
  serve,
  settled,
  show,
  signIn,
} from '../../ui/testing-api'
import { setup, UNITS } from '../../ui/testing-data'
import { learnUnits } from '../../ui/units'
import { PreviewPage } from './PreviewPage'

vi.mock('../../frame/stage', () => ({ useStage: () => ({ setup: setup() }) }))

const column = (place: number, heading: string, doubtful = false) => ({
  place,
  heading,
  role: 'channel',
  unit_found: 'kN',
  reason: `${heading} is named so`,
  doubtful,
  low: [0, 1],
  high: [1, 2],
})
const preview = (over: Partial<ImportPreview> = {}): ImportPreview =>
  ({
    choices: {
      separator: ';',
      decimal: ',',
      doubtful: [],
      time: { column: 0, unit: 's', rate_hz: null },
      columns: [
        { place: 0, take: false, name: 't', quantity: '', unit: '', turned: false, pairs_with: '' },
        {
          place: 1,
          take: true,
          name: 'Kraft',
          quantity: 'force',
          unit: 'kN',
          turned: false,
          pairs_with: '',
        },
      ],
    },
    separator_doubt: '',
    names_line: 1,
    units_line: 2,
    first_line: 3,
    encoding: 'utf-8',
    lines: [{ line: 1, text: 't;Kraft' }],
    columns: [column(0, 't'), column(1, 'Kraft', true)],
    doubts: [],
    doubt_count: 0,
    rows: 400,
    whole: true,
    time_reason: 'It rises by one step.',
    time_doubtful: false,
    compared_with: null,
    rate_hz: 100,
    duration_s: 4,
    gaps: 0,
    problem: '',
    problem_line: null,
    ...over,
  }) as ImportPreview

const state = (over = {}) => ({
  key: 'k',
  name: 'pull.csv',
  size: 12_000,
  received: 12_000,
  state: 'here',
  run_id: null,
  problem: '',
  ...over,
})
const LEAVE = vi.fn()
const importing = () => show(<PreviewPage fileKey="k" onLeave={LEAVE} />)
const choicesOf = (body: unknown) =>
  body as { columns: { quantity: string; unit: string; take: boolean }[] }

beforeEach(() => {
  signIn('import files')
  learnUnits(UNITS)
  LEAVE.mockClear()
})

it('says what each column is taken for and how many guesses are to be checked', async () => {
  serve({ 'POST /api/files/{key}/preview': preview(), 'GET /api/files/{key}': state() })
  const box = await importing()
  expect(box.textContent).toContain('Kraft is named so')
  expect(box.textContent).toContain('1 guess to check')
  expect(box.textContent).toMatch(/400 rows, 1 channel, 4.0000 s at 100.00 Hz/)
})

it('another quantity brings its own unit and is previewed anew', async () => {
  const asked = serve({
    'POST /api/files/{key}/preview': preview(),
    'GET /api/files/{key}': state(),
  })
  const box = await importing()
  await choose(box, 'Quantity of Kraft', 'strain')
  await settled()
  const sent = choicesOf(asked.filter((a) => a.request.startsWith('POST')).at(-1)!.body).columns[1]!
  expect([sent.quantity, sent.unit, sent.take]).toEqual(['strain', 'µm/m', true])
})

it('makes a run of that name and goes to it', async () => {
  let made = false
  const asked = serve({
    'POST /api/files/{key}/preview': preview(),
    'GET /api/files/{key}': () => state(made ? { run_id: 12, state: 'made' } : {}),
    'POST /api/files/{key}/run': () => ((made = true), state({ state: 'waiting' })),
  })
  const box = await importing()
  await pressed(box, 'Make the run')
  expect(box.textContent).toContain('The run is being made')
  const sent = actionsIn(asked).at(-1)!
  expect(sent.request).toBe('POST /api/files/{key}/run')
  expect((sent.body as { run_name: string }).run_name).toBe('pull')
  await vi.waitFor(() => expect(addressIn(box)).toBe('/setups/1/derive?run=12'), 3000)
})

it('no run is made of a file with a problem, which is said', async () => {
  serve({
    'POST /api/files/{key}/preview': preview({ problem: 'Line 7: the time runs backwards.' }),
    'GET /api/files/{key}': state(),
  })
  const box = await importing()
  expect(box.querySelector('[role=alert]')!.textContent).toBe('Line 7: the time runs backwards.')
  const make = [...box.querySelectorAll('button')].find(
    (b) => b.textContent === 'No run can be made yet',
  )!
  expect(make.disabled).toBe(true)
})

it('a file that cannot be read says why and lets another one be chosen', async () => {
  serve({
    'POST /api/files/{key}/preview': new Problem(422, 'This is no text.', 'Save it as CSV.'),
    'GET /api/files/{key}': state(),
  })
  const box = await importing()
  expect(box.querySelector('[role=alert]')!.textContent).toBe('This is no text. Save it as CSV.')
  await pressed(box, 'Choose another file')
  expect(LEAVE).toHaveBeenCalledOnce()
})

it('leaving drops the file on the server', async () => {
  const asked = serve({
    'POST /api/files/{key}/preview': preview(),
    'GET /api/files/{key}': state(),
    'DELETE /api/files/{key}': undefined,
  })
  const box = await importing()
  await pressed(box, 'Leave the file')
  await settled()
  expect(actionsIn(asked).at(-1)!.request).toBe('DELETE /api/files/{key}')
  expect(LEAVE).toHaveBeenCalledOnce()
})
