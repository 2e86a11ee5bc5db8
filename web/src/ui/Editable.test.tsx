import { expect, it, vi } from 'vitest'

import { ProblemError } from '../api/client'
import { EditableNumber, EditableText } from './Editable'
import { render, type } from './testing'

const field = (box: HTMLElement) => box.querySelector('input')!

async function gaugeFactor(onSave: (value: number) => Promise<unknown>) {
  return render(<EditableNumber label="Gauge factor" value={2.08} decimals={3} onSave={onSave} />)
}

it('saves the number when Enter is pressed', async () => {
  const save = vi.fn(async () => {})
  const box = await gaugeFactor(save)
  expect(field(box).value).toBe('2.080')
  await type(field(box), '2,1', 'Enter')
  expect(save).toHaveBeenCalledWith(2.1)
})

it('saves nothing when nothing changed', async () => {
  const save = vi.fn(async () => {})
  const box = await gaugeFactor(save)
  await type(field(box), '2.080', 'Enter')
  expect(save).not.toHaveBeenCalled()
})

it('brings the old value back on Esc', async () => {
  const save = vi.fn(async () => {})
  const box = await gaugeFactor(save)
  await type(field(box), '9', 'Escape')
  expect(field(box).value).toBe('2.080')
  expect(save).not.toHaveBeenCalled()
})

it('refuses text where it is typed', async () => {
  const save = vi.fn(async () => {})
  const box = await gaugeFactor(save)
  await type(field(box), 'two', 'Enter')
  expect(save).not.toHaveBeenCalled()
  expect(box.querySelector('[role=alert]')!.textContent).toContain('Gauge factor must be a number.')
  expect(field(box).getAttribute('aria-invalid')).toBe('true')
})

it("shows the server's sentence and keeps what was typed", async () => {
  const box = await render(
    <EditableText
      label="Name"
      value="F"
      onSave={async () => {
        throw new ProblemError({
          title: 'There is a channel SG1 already.',
          status: 409,
          hint: 'Choose.',
        })
      }}
    />,
  )
  await type(field(box), 'SG1', 'Enter')
  expect(box.querySelector('[role=alert]')!.textContent).toBe(
    'There is a channel SG1 already. Choose.',
  )
  expect(field(box).value).toBe('SG1')
})
