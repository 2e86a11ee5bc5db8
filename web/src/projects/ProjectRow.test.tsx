import { beforeEach, expect, it, vi } from 'vitest'

import type { Project, SetupLine } from '../api/projects'
import { pressed } from '../ui/testing'
import { actionsIn, serve, settled, show, signIn } from '../ui/testing-api'
import { ProjectRow } from './ProjectRow'

const line = (over: Partial<SetupLine> = {}): SetupLine => ({
  id: 1,
  name: 'Tension',
  version: 3,
  bench_id: 1,
  bench_name: 'Shed bench',
  on_bench: true,
  channels: 4,
  to_zero: 1,
  runs: 2,
  results: 6,
  stale: 0,
  recording: false,
  reports: 0,
  last_run: null,
  next: { stage: 'calibrate', action: 'Zero 1 channel', reason: 'SG2 has no zero.' },
  ...over,
})
const project = (...setups: SetupLine[]): Project => ({
  id: 1,
  name: 'Tube coupons',
  customer: '',
  article: 'Tube 40 x 2',
  standard: 'ISO 6892-1',
  archived_at: null,
  setups,
})
const onChoose = vi.fn()
const onNewSetup = vi.fn()
const row = (of: Project, chosen = false) =>
  show(
    <ul>
      <ProjectRow
        project={of}
        chosen={chosen}
        pressing={chosen}
        setup={of.setups[0]}
        onChoose={onChoose}
        onNewSetup={onNewSetup}
      />
    </ul>,
  )

beforeEach(() => {
  signIn('arrange projects')
  onChoose.mockClear()
  onNewSetup.mockClear()
})

it('says how far a setup is and leads to its next stage', async () => {
  serve({})
  const box = await row(project(line()))
  expect(box.querySelector('nav')!.textContent).toContain('3/41 to zero')
  expect(box.textContent).toContain('Stalenone')
  const open = box.querySelector<HTMLAnchorElement>('[aria-label="Open Tension"]')!
  expect(open.getAttribute('href')).toBe('/setups/1/calibrate')
})

it('names what is stale and what records', async () => {
  serve({})
  const box = await row(project(line({ stale: 1, recording: true })))
  expect(box.textContent).toContain('1 result')
  expect(box.textContent).toContain('is running')
})

it('a project without a setup asks for one', async () => {
  serve({})
  const box = await row(project(), true)
  expect(box.textContent).toContain('No setup yet')
  await pressed(box, 'Add a setup')
  expect(onNewSetup).toHaveBeenCalledOnce()
})

it('chooses among its setups', async () => {
  serve({})
  const box = await row(project(line(), line({ id: 2, name: 'Bending' })))
  const [first, second] = box.querySelectorAll<HTMLButtonElement>('button[aria-pressed]')
  expect([first!.getAttribute('aria-pressed'), second!.getAttribute('aria-pressed')]).toEqual([
    'true',
    'false',
  ])
  second!.click()
  expect(onChoose).toHaveBeenCalledWith(2)
})

it('its actions show only where it is chosen, and each is one request', async () => {
  const asked = serve({
    'POST /api/setups/{setup_id}/duplicate': {},
    'POST /api/projects/{project_id}/duplicate': {},
  })
  expect((await row(project(line()))).textContent).not.toContain('Duplicate')
  const box = await row(project(line()), true)
  const copies = [...box.querySelectorAll('button')].filter((b) => /uplicate/.test(b.textContent!))
  expect(copies.length).toBeGreaterThan(0)
  for (const button of copies) {
    button.click()
    await settled()
  }
  expect(actionsIn(asked)).toHaveLength(copies.length)
})
