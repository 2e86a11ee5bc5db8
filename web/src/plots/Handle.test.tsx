import { act } from 'react'
import { expect, it, vi } from 'vitest'
import type uPlot from 'uplot'

import { render } from '../ui/testing'
import { Handle } from './Handle'

const plot = {
  valToPos: (value: number) => value * 10,
  over: { offsetLeft: 50, offsetTop: 5, getBoundingClientRect: () => ({ left: 0, top: 0 }) },
} as unknown as uPlot

async function handle(actions: Partial<Parameters<typeof Handle>[0]> = {}) {
  const box = await render(
    <Handle
      plot={plot}
      x={1}
      y={2}
      label="Fit range to"
      words="180 MPa"
      value={180}
      onDrag={vi.fn()}
      onDrop={vi.fn()}
      onStep={vi.fn()}
      {...actions}
    />,
  )
  return box.querySelector('button')!
}

it('stands at its point of the plot and says its value', async () => {
  const button = await handle()
  expect([button.style.left, button.style.top]).toEqual(['60px', '25px'])
  expect(button.getAttribute('aria-valuetext')).toBe('180 MPa')
})

it.each([
  ['ArrowUp', 1],
  ['ArrowRight', 1],
  ['ArrowDown', -1],
  ['ArrowLeft', -1],
])('%s steps by %s', async (key, step) => {
  const onStep = vi.fn()
  const button = await handle({ onStep })
  await act(async () => {
    button.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
  })
  expect(onStep).toHaveBeenCalledWith(step)
})

it('leaves other keys alone', async () => {
  const onStep = vi.fn()
  const button = await handle({ onStep })
  await act(async () => {
    button.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }))
  })
  expect(onStep).not.toHaveBeenCalled()
})

it('cannot be moved by who may not', async () => {
  expect((await handle({ disabled: true })).disabled).toBe(true)
})
