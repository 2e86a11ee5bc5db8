import { act } from 'react'
import { useState } from 'react'
import { beforeEach, expect, it, vi } from 'vitest'

import type { CheckedFormula } from '../api/computed'
import { type } from '../ui/testing'
import { serve, settled, show, signIn } from '../ui/testing-api'
import { setup } from '../ui/testing-data'
import { FormulaField } from './FormulaField'

const found = (over: Partial<CheckedFormula> = {}): CheckedFormula => ({
  unit: 'kN',
  units: ['kN', 'N'],
  parts: [],
  problem: '',
  place: null,
  hint: '',
  proposal: '',
  suggestions: [],
  ...over,
})
const onEnter = vi.fn()

function Field({ begin }: { begin: string }) {
  const [text, setText] = useState(begin)
  return (
    <FormulaField
      setup={setup()}
      channel=""
      text={text}
      label="Formula"
      onText={setText}
      onEnter={onEnter}
    />
  )
}

async function field(begin: string, answers: Record<string, CheckedFormula>) {
  serve({
    'POST /api/setups/{setup_id}/formula': ({ body }: { body: { text: string } }) =>
      answers[body.text] ?? found(),
  })
  const box = await show(<Field begin={begin} />)
  return { box, input: box.querySelector('input')! }
}

async function press(on: HTMLElement, key: string) {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true })
  await act(async () => void on.dispatchEvent(event))
  await settled()
  return event
}

beforeEach(() => {
  signIn('wire channels')
  onEnter.mockClear()
})

it('shows the unit under each outermost part, as wide as the part', async () => {
  const parts = [
    { place: [5, 6] as [number, number], unit: 'kN' },
    { place: [0, 15] as [number, number], unit: 'kN' },
    { place: [18, 22] as [number, number], unit: 'kN' },
  ]
  const { box } = await field('mean(F, last 2 s) + 3 kN', {
    'mean(F, last 2 s) + 3 kN': found({ parts }),
  })
  const brackets = [...box.querySelectorAll<HTMLElement>('[style*=ch]')]
  expect(brackets.map((b) => b.style.width)).toEqual(['15ch', '4ch'])
})

it('a proposal is taken with Tab, and Enter counts only once the formula means something', async () => {
  const wrong = found({ problem: '3 has no unit, F is in kN.', place: [4, 5], proposal: '3 kN' })
  const { box, input } = await field('F + 3', { 'F + 3': wrong })
  expect(box.querySelector('[role=alert]')!.textContent).toContain('3 has no unit')
  await press(input, 'Enter')
  expect(onEnter).not.toHaveBeenCalled()
  const tab = await press(input, 'Tab')
  expect(tab.defaultPrevented).toBe(true)
  expect(input.value).toBe('F + 3 kN')
  expect(box.querySelector('[role=alert]')).toBeNull()
  await press(input, 'Enter')
  expect(onEnter).toHaveBeenCalledOnce()
})

it('Tab goes on to the next field where there is nothing to take', async () => {
  const { input } = await field('F', {})
  expect((await press(input, 'Tab')).defaultPrevented).toBe(false)
})

it('what is offered replaces what was begun', async () => {
  const suggestions = [{ text: 'F axle', words: 'channel, kN', begins: 4 }]
  const { input } = await field('', { '2 * F a': found({ suggestions }) })
  await type(input, '2 * F a', 'Shift')
  await settled()
  expect(document.body.textContent).toContain('channel, kN')
  await press(input, 'Tab')
  expect(input.value).toBe('2 * F axle')
})
