/** Channels of the bench strip that are let go over a pane. */

import { useEffect, type RefObject } from 'react'

const DROPPED = 'channel-dropped'

/** Give a channel to what takes channels at a point of the window; whether there was any. */
export function dropChannel(key: string, x: number, y: number): boolean {
  const at = document.elementFromPoint(x, y)?.closest('[data-takes-channels]')
  at?.dispatchEvent(new CustomEvent(DROPPED, { detail: key }))
  return !!at
}

/** Be given what is dropped on `box`. */
export function useDroppedChannels(
  box: RefObject<HTMLElement | null>,
  take: (key: string) => void,
) {
  useEffect(() => {
    const host = box.current
    const onDrop = (event: Event) => take((event as CustomEvent<string>).detail)
    host?.addEventListener(DROPPED, onDrop)
    return () => host?.removeEventListener(DROPPED, onDrop)
  })
}
