/** Opening Find or do from anywhere. */
const target = new EventTarget()

export const openFindOrDo = (): void => void target.dispatchEvent(new Event('open'))

export function onOpenFindOrDo(listener: () => void): () => void {
  target.addEventListener('open', listener)
  return () => target.removeEventListener('open', listener)
}
