import { beforeEach, expect, it, vi } from 'vitest'

import type { Bench } from '../api/client'
import type { Found } from '../api/devices'
import { pressed } from '../ui/testing'
import { actionsIn, Problem, serve, settled, show, signIn } from '../ui/testing-api'
import { amplifier } from '../ui/testing-data'
import { freeLabel } from './labels'
import { OnTheNetwork } from './OnTheNetwork'

vi.mock('./TryAddress', () => ({
  TryAddress: ({ asked }: { asked: { host: string } | null }) => <p data-try>{asked?.host}</p>,
}))

const bench = { id: 7, name: 'Shed bench', devices: [amplifier] } as unknown as Bench
const found = (over: Partial<Found> = {}): Found => ({
  driver: 'bridge amplifier',
  host: '10.0.0.8',
  port: 5025,
  model: 'BA8',
  serial: '20418',
  firmware: '3.2',
  on: '',
  label: '',
  moved: false,
  ...over,
})
const network = async (...devices: Found[]) => {
  const asked = serve({
    'POST /api/benches/{bench_id}/find': { devices },
    'PUT /api/benches/{bench_id}/devices': {},
  })
  const box = await show(<OnTheNetwork bench={bench} />)
  await pressed(box, 'Find devices')
  await settled()
  return { box, asked }
}

beforeEach(() => signIn('set up benches'))

it('says that nothing announces itself, and lets one look again', async () => {
  const { box } = await network()
  expect(box.textContent).toContain('Nothing announces itself there')
  expect(box.textContent).toContain('Look again')
})

it('a new device is tried at its address under the next free label', async () => {
  const { box } = await network(found())
  await pressed(box, 'Add it as A2')
  expect(box.querySelector('[data-try]')!.textContent).toBe('10.0.0.8')
})

it('one of this bench that has another address now is moved by one request', async () => {
  const { box, asked } = await network(found({ on: 'Shed bench', label: 'A3', moved: true }))
  await pressed(box, 'Move A3 here')
  await settled()
  expect(actionsIn(asked).map((a) => a.request)).toContain('PUT /api/benches/{bench_id}/devices')
  expect(actionsIn(asked).find((a) => a.request.startsWith('PUT'))).toMatchObject({
    path: { bench_id: 7 },
    body: { label: 'A3', host: '10.0.0.8', port: 5025 },
  })
})

it('what is on a bench already, where it was, is no news', async () => {
  const { box } = await network(
    found({ on: 'Shed bench', label: 'A1' }),
    found({ on: 'Hall bench', label: 'A3', moved: true }),
  )
  expect(box.textContent).toContain('2 are on a bench already')
  expect(box.textContent).toContain('A3, Hall bench')
  expect(box.textContent).not.toContain('Move A')
})

it('a device without a driver is named and cannot be added', async () => {
  const { box } = await network(found({ driver: '' }))
  expect(box.textContent).toContain('no driver for it')
  expect(box.textContent).not.toContain('Add it')
})

it('when looking fails it can be tried again', async () => {
  serve({ 'POST /api/benches/{bench_id}/find': new Problem(503, 'The recorder does not answer.') })
  const box = await show(<OnTheNetwork bench={bench} />)
  await pressed(box, 'Find devices')
  await settled()
  const button = [...box.querySelectorAll('button')].find((b) => b.textContent === 'Find devices')!
  expect(button.disabled).toBe(false)
})

it.each([
  ['bridge amplifier', 'A2'],
  ['line gauge', 'S1'],
  ['something else', 'D1'],
])('the next free label of a %s is %s', (driver, label) => {
  expect(freeLabel(driver, bench)).toBe(label)
})
