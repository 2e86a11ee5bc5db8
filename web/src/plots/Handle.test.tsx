import { act } from 'react'
import { expect, it, vi } from 'vitest'
import type uPlot from 'uplot'

import { render } from '../ui/testing'
import { Handle } from './Handle'

const plot = {
  valToPos: (value: number, axis: string) => (axis === 'x' ? value * 10 : 400 - value),
  over: { offsetLeft: 50, offsetTop: 5 },
} as unknown as uPlot

async function handle(props: Partial<Parameters<typeof Handle>[0]> = {}) {
  const box = await render(
    <Handle
      plot={plot}
      along="y"
      value={180}
      across={2}
      min={1}
      max={400}
      step={1}
      label="Fit range to"
      decimals={0}
      unit="MPa"
      onMove={vi.fn()}
      onRest={vi.fn()}
      {...props}
    />,
  )
  return box.querySelector<HTMLElement>('[role=slider]')!
}

async function press(thumb: HTMLElement, key: string) {
  await act(async () => thumb.focus())
  await act(async () => {
    thumb.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
  })
}

it('lies along its axis, at its point of the other one', async () => {
  const upright = (await handle()).parentElement!.closest<HTMLElement>('[data-orientation]')!
  expect([upright.style.left, upright.style.top, upright.style.height]).toEqual([
    '70px',
    '5px',
    '399px',
  ])
})

it('says its value and its ends', async () => {
  const thumb = await handle()
  expect(thumb.getAttribute('aria-valuetext')).toBe('180 MPa')
  expect(thumb.getAttribute('aria-valuemin')).toBe('1')
  expect(thumb.getAttribute('aria-valuemax')).toBe('400')
})

it.each([
  ['ArrowUp', 181],
  ['ArrowRight', 181],
  ['ArrowDown', 179],
  ['ArrowLeft', 179],
  ['PageUp', 190],
  ['Home', 1],
  ['End', 400],
])('%s moves it to %s and lets it rest there', async (key, value) => {
  const [onMove, onRest] = [vi.fn(), vi.fn()]
  await press(await handle({ onMove, onRest }), key)
  expect(onMove).toHaveBeenCalledWith(value)
  expect(onRest).toHaveBeenCalledWith(value)
})

it('leaves other keys alone', async () => {
  const onMove = vi.fn()
  await press(await handle({ onMove }), 'Enter')
  expect(onMove).not.toHaveBeenCalled()
})

it('cannot be moved by who may not', async () => {
  const onMove = vi.fn()
  await press(await handle({ onMove, disabled: true }), 'ArrowUp')
  expect(onMove).not.toHaveBeenCalled()
})
