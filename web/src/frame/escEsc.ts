import { useEffect } from 'react'

const SEQUENCE = 900 // ms between the two

/** Esc Esc, on every page and while typing too. */
export function useEscEsc(act: () => void): void {
  useEffect(() => {
    let last = -Infinity
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Escape' || event.repeat) return
      const now = performance.now()
      if (now - last < SEQUENCE) {
        event.preventDefault()
        act()
        last = -Infinity
      } else last = now
    }
    window.addEventListener('keydown', onKey, { capture: true })
    return () => window.removeEventListener('keydown', onKey, { capture: true })
  }, [act])
}
