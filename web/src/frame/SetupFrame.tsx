import { useQuery } from '@tanstack/react-query'
import { Suspense, useEffect, useState } from 'react'
import { Outlet, useMatch, useParams } from 'react-router'

import { benchQuery, setupQuery } from '../api/queries'
import { BenchStrip } from '../bench-strip/BenchStrip'
import { LiveProvider } from '../live/LiveProvider'
import { EmergencyBanner } from './EmergencyBanner'
import { FindOrDo } from './FindOrDo'
import { Keys } from './Keys'
import { Line } from './Line'
import type { StageContext } from './stage'
import { TopBar } from './TopBar'

/** The frame of every stage: top bar, the line, the bench strip; of the far view nothing. */
export function SetupFrame() {
  const setupId = Number(useParams().setupId)
  const setup = useQuery(setupQuery(setupId))
  const bench = useQuery({
    ...benchQuery(setup.data?.bench_id ?? 0),
    enabled: !!setup.data,
  })
  const isFar = !!useMatch('/setups/:setupId/far')
  const [chosen, choose] = useState<number | null>(null)
  useEffect(() => {
    if (setup.data) document.title = `${setup.data.project_name} – Yoke Bench`
  }, [setup.data])
  if (setup.isError)
    return (
      <p role="alert" className="p-8">
        There is no such setup. <a href="/">Go to the projects.</a>
      </p>
    )
  if (!setup.data || !bench.data) return null
  const context: StageContext = { setup: setup.data, bench: bench.data, chosen, choose }
  return (
    <LiveProvider benchId={bench.data.id}>
      {isFar ? (
        <div className="flex h-full flex-col">
          <EmergencyBanner bench={bench.data} />
          <main className="min-h-0 flex-1">
            <Suspense>
              <Outlet context={context} />
            </Suspense>
          </main>
        </div>
      ) : (
        <Framed context={context} />
      )}
      <Keys {...context} />
      <FindOrDo {...context} />
    </LiveProvider>
  )
}

/** A stage between the top bar, the line and the bench strip. */
function Framed({ context }: { context: StageContext }) {
  const { setup, bench } = context
  return (
    <div className="grid h-full min-h-160 grid-cols-[88px_1fr] grid-rows-[44px_1fr_76px]">
      <TopBar setup={setup} bench={bench} />
      <Line setup={setup} />
      <div className="flex min-h-0 min-w-0 flex-col">
        <EmergencyBanner bench={bench} />
        <main className="min-h-0 min-w-0 flex-1">
          <Suspense>
            <Outlet context={context} />
          </Suspense>
        </main>
      </div>
      <BenchStrip {...context} />
    </div>
  )
}
