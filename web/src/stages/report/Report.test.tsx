import { beforeEach, expect, it, vi } from 'vitest'

import type { Report as ReportRow } from '../../api/client'
import { pressed } from '../../ui/testing'
import { actionsIn, addressIn, Problem, serve, settled, show, signIn } from '../../ui/testing-api'
import { setup } from '../../ui/testing-data'
import { Report } from './Report'

vi.mock('../../frame/stage', () => ({ useStage: () => ({ setup: setup() }) }))

const report = (over: Partial<ReportRow> = {}): ReportRow => ({
  id: 5,
  run: 1,
  run_name: 'C1 run 1',
  number: 'TR-26-001',
  revision: 'A',
  title: 'Tension of C1',
  remarks: '',
  pdf_at: null,
  stale: true,
  problem: '',
  pages: 0,
  blocks: [
    { kind: 'run_facts', run: 1 },
    { kind: 'paragraph', text: 'As agreed.' },
  ],
  block_titles: ['Summary', 'Paragraph'],
  ...over,
})
const run = (id: number, state = 'kept') => ({
  id,
  name: `C${id} run ${id}`,
  state,
  ended_because: 'Stopped by hand',
  channels: [],
  seal: '',
})
const page = (items: unknown[]) => ({ items, next: null, count: items.length })

const answers = (...reports: ReportRow[]) => ({
  'GET /api/setups/{setup_id}/reports': page(reports),
  'GET /api/setups/{setup_id}/runs': page([run(1), run(2), run(3, 'interrupted')]),
  'GET /api/runs/{run_id}/blocks': [],
})

beforeEach(() => signIn('write reports'))

it('offers a report on each kept run that has none, and opens the one that is made', async () => {
  const asked = serve({
    ...answers(report()),
    'POST /api/runs/{run_id}/report': report({ id: 9, run: 2 }),
  })
  const box = await show(<Report />)
  expect(box.textContent).not.toContain('Report on C1 run 1')
  expect(box.textContent).not.toContain('Report on C3 run 3')
  await pressed(box, 'Report on C2 run 2')
  expect(actionsIn(asked)).toEqual([
    { request: 'POST /api/runs/{run_id}/report', path: { run_id: 2 }, body: undefined },
  ])
  expect(addressIn(box)).toBe('/?report=9')
})

it('has the PDF made and waits for it', async () => {
  let looks = 0
  const asked = serve({
    ...answers(report()),
    'POST /api/reports/{report_id}/pdf': { id: 3, state: 'waiting' },
    'GET /api/tasks/{task_id}': () => ({ id: 3, state: ++looks > 1 ? 'done' : 'doing' }),
  })
  const box = await show(<Report />)
  await pressed(box, 'Make the PDF')
  expect(box.textContent).toContain('The PDF is being made')
  await vi.waitFor(async () => {
    await settled()
    expect(box.textContent).not.toContain('The PDF is being made')
  })
  expect(asked.filter((a) => a.request.startsWith('GET /api/tasks'))).toHaveLength(2)
})

it('says why a PDF was not made, and that pages are stale', async () => {
  serve(
    answers(report({ problem: 'The run gives no E.', pages: 2, pdf_at: '2026-11-23T10:00:00Z' })),
  )
  const box = await show(<Report />)
  expect(box.querySelector('[role=alert]')!.textContent).toContain('The run gives no E.')
  expect(box.textContent).toContain('These pages are stale')
  expect(box.querySelectorAll('img')).toHaveLength(2)
})

it('moves blocks and takes them out, in one change each', async () => {
  const asked = serve({ ...answers(report()), 'PATCH /api/reports/{report_id}': report() })
  const box = await show(<Report />)
  await pressed(box, 'Move down: Summary')
  await pressed(box, 'Take out: Paragraph')
  const bodies = actionsIn(asked).map((a) => a.body as { blocks: { kind: string }[] })
  expect(bodies.map((b) => b.blocks.map((x) => x.kind))).toEqual([
    ['paragraph', 'run_facts'],
    ['run_facts'],
  ])
})

it('a refused change is said and the field keeps what is stored', async () => {
  serve({
    ...answers(report()),
    'PATCH /api/reports/{report_id}': new Problem(409, 'There is a report TR-26-002 already.'),
  })
  const box = await show(<Report />)
  await pressed(box, 'Take out: Paragraph')
  await settled()
  expect(box.textContent).toContain('TR-26-001')
})

it('is only read by who may not write', async () => {
  signIn()
  serve(answers(report()))
  const box = await show(<Report />)
  expect(box.textContent).toContain('Reviewers only read')
  expect(box.textContent).not.toContain('Runs without a report')
  expect(box.querySelector('[aria-label^="Take out"]')).toBeNull()
})
