import { useRef } from 'react'

import { useEscape } from './pageKeys'

const SEQUENCE = 900 // ms between the two

/** Esc Esc, on every page and while typing too. */
export function useEscEsc(act: () => void): void {
  const last = useRef(-Infinity)
  useEscape((event) => {
    const now = performance.now()
    const second = now - last.current < SEQUENCE
    last.current = second ? -Infinity : now
    if (!second) return
    event.preventDefault()
    act()
  })
}
