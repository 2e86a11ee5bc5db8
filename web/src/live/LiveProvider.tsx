import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useSyncExternalStore,
  type ReactNode,
} from 'react'

import { onNews } from '../api/queries'
import { LiveSource, type BenchState, type Connection, type Reading } from './source'

const Context = createContext<LiveSource | null>(null)

export function LiveProvider({ benchId, children }: { benchId: number; children: ReactNode }) {
  const source = useMemo(() => {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    return new LiveSource(`${scheme}://${location.host}/live/${benchId}`, onNews)
  }, [benchId])
  // Holds the socket open while a setup is shown, whatever its page listens to.
  useEffect(() => source.subscribe(() => {}), [source])
  return <Context.Provider value={source}>{children}</Context.Provider>
}

/** While it is on, everything within stands still as it was when that began. */
export function StandStill({ on, children }: { on: boolean; children: ReactNode }) {
  const source = useLive()
  const shown = useMemo(() => (on ? source.still() : source), [on, source])
  return (
    <Still.Provider value={on}>
      <Context.Provider value={shown}>{children}</Context.Provider>
    </Still.Provider>
  )
}

const Still = createContext(false)
export const useIsStill = (): boolean => useContext(Still)

export function useLive(): LiveSource {
  const source = useContext(Context)
  if (!source) throw new Error('useLive needs a LiveProvider')
  return source
}

const NO_CHANNEL = ''

/** Newest reading of a channel; what nobody sees follows it with the bench's state, once a second. */
export function useReading(key: string, isSeen = true): Reading | undefined {
  const source = useLive()
  const read = useCallback(() => source.reading(key), [source, key])
  const asked = isSeen ? key : NO_CHANNEL
  const subscribe = useCallback((f: () => void) => source.subscribe(f, asked), [source, asked])
  return useSyncExternalStore(subscribe, read)
}

export function useBenchState(): BenchState | null {
  const source = useLive()
  return useSyncExternalStore(source.subscribe, () => source.state)
}

export function useConnection(): Connection {
  const source = useLive()
  return useSyncExternalStore(source.subscribe, () => source.connection)
}
