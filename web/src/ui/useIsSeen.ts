import { useEffect, useState, type RefObject } from 'react'

type Told = (isSeen: boolean) => void
const told = new Map<Element, Told>()
const observer =
  typeof IntersectionObserver === 'undefined'
    ? null
    : new IntersectionObserver(
        (entries) => entries.forEach((e) => told.get(e.target)?.(e.isIntersecting)),
        { rootMargin: '64px' },
      )

/** Whether an element is on the screen, or about to be scrolled there. */
export function useIsSeen(element: RefObject<Element | null>): boolean {
  const [isSeen, set] = useState(true)
  useEffect(() => {
    const watched = element.current
    if (!observer || !watched) return
    told.set(watched, set)
    observer.observe(watched)
    return () => {
      observer.unobserve(watched)
      told.delete(watched)
    }
  }, [element])
  return isSeen
}
