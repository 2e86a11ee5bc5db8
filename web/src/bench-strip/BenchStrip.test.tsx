import { act } from 'react'
import { beforeEach, expect, it, vi } from 'vitest'

import type { Bench } from '../api/client'
import { pressed, render } from '../ui/testing'
import { setup } from '../ui/testing-data'
import { BenchStrip } from './BenchStrip'

vi.mock('../live/LiveProvider', () => ({
  useReading: () => null,
  useBenchState: () => null,
  useLive: () => ({ state: null }),
}))
vi.mock('./RunState', () => ({ RunState: () => null }))

const choose = vi.fn()
const strip = () =>
  render(<BenchStrip setup={setup()} bench={{} as Bench} chosen={null} choose={choose} />)

const tiles = (box: HTMLElement) => [...box.querySelectorAll<HTMLElement>('button[aria-pressed]')]
const names = (box: HTMLElement) => tiles(box).map((t) => t.querySelector('.truncate')!.textContent)

/** Where each tile stands: beside each other, as they are drawn. */
function laidOut(box: HTMLElement) {
  for (const tile of tiles(box))
    tile.getBoundingClientRect = () => {
      const x = tiles(box).indexOf(tile) * 170
      return {
        x,
        y: 0,
        left: x,
        top: 0,
        right: x + 164,
        bottom: 60,
        width: 164,
        height: 60,
      } as DOMRect
    }
}

async function press(code: string) {
  const at = document.activeElement ?? document.body
  await act(async () => {
    at.dispatchEvent(
      new KeyboardEvent('keydown', { code, key: code, bubbles: true, cancelable: true }),
    )
    await new Promise((done) => setTimeout(done, 30))
  })
}

beforeEach(() => {
  localStorage.clear()
  choose.mockClear()
})

it('a tile is chosen by pressing it', async () => {
  const box = await strip()
  await pressed(box, names(box)[0]!)
  expect(choose).toHaveBeenCalledWith(setup().channels[0]!.id)
})

it('a tile is moved by keys, and stays where it was laid down', async () => {
  const box = await strip()
  const [first, second, ...rest] = names(box)
  laidOut(box)
  tiles(box)[0]!.focus()
  for (const code of ['Space', 'ArrowRight', 'Space']) await press(code)
  expect(names(box)).toEqual([second, first, ...rest])
  expect(choose).not.toHaveBeenCalled()
  expect(names(await strip())).toEqual([second, first, ...rest])
})
