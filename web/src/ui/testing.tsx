import { act, type ReactNode } from 'react'
import { createRoot, type Root } from 'react-dom/client'

declare global {
  var IS_REACT_ACT_ENVIRONMENT: boolean
}
globalThis.IS_REACT_ACT_ENVIRONMENT = true

let shown: Root | null = null

/** Put an element on the page of the test, in place of the one before; gives its box. */
export async function render(element: ReactNode): Promise<HTMLElement> {
  const box = document.createElement('div')
  await act(async () => shown?.unmount())
  document.body.replaceChildren(box)
  shown = createRoot(box)
  await act(async () => shown?.render(element))
  return box
}

/** Type into a field as a person does, then press a key. */
export async function type(input: HTMLInputElement, text: string, key: string): Promise<void> {
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!
  await act(async () => {
    set.call(input, text)
    input.dispatchEvent(new Event('input', { bubbles: true }))
  })
  await act(async () => {
    input.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
  })
}

/** Press the button of that name. */
export async function pressed(box: HTMLElement, name: string): Promise<void> {
  const found = [...box.querySelectorAll('button')].find(
    (b) => b.getAttribute('aria-label') === name || b.textContent?.startsWith(name),
  )
  if (!found) throw new Error(`There is no button ${name}.`)
  await act(async () => found.click())
}
