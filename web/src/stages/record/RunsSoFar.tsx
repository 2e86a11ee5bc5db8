import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { discardRun, restoreRun } from '../../api/actions'
import type { Run } from '../../api/client'
import { discardedQuery, useRuns } from '../../api/queries'
import { Button } from '../../ui/Button'
import { Fact } from '../../ui/Fact'
import { day, figure } from '../../ui/format'

/** The runs of a setup, the newest first; any of them can be discarded, and brought back. */
export function RunsSoFar({ setup, may }: { setup: number; may: boolean }) {
  const runs = useRuns(setup).rows
  const discarded = useQuery(discardedQuery(setup)).data?.items ?? []
  return (
    <>
      <h3 className="px-4 pt-2.5 pb-1">Runs so far</h3>
      <ul className="px-4 pb-2">
        {[...runs].reverse().map((run) => (
          <li key={run.id}>
            <Line run={run} may={may} />
          </li>
        ))}
        {runs.length === 0 && <li className="text-small text-soft">None yet.</li>}
      </ul>
      {discarded.length > 0 && (
        <details className="border-t border-rule px-4 py-2 text-small">
          <summary className="cursor-pointer text-soft">{discarded.length} discarded</summary>
          <ul>
            {discarded.map((run) => (
              <li key={run.id} className="flex items-center gap-2 py-1">
                <span className="min-w-0">
                  {run.name}
                  <span className="block text-soft">
                    {run.discarded_at && day(run.discarded_at)}: {run.discarded_because}
                  </span>
                </span>
                {may && (
                  <span className="ml-auto flex-none">
                    <Button size={24} onClick={() => void restoreRun(run.id)}>
                      Restore
                    </Button>
                  </span>
                )}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  )
}

function Line({ run, may }: { run: Run; may: boolean }) {
  const [asking, setAsking] = useState(false)
  const ended = run.state !== 'recording'
  if (asking) return <Reason run={run} onDone={() => setAsking(false)} />
  return (
    <Fact name={run.name}>
      <span className={run.state === 'interrupted' ? 'font-strong text-marking-ink' : ''}>
        {run.is_dry ? 'dry run' : run.state}
      </span>
      {ended && run.duration_s > 0 && (
        <>
          , <span className="figure">{figure(run.duration_s, 1)}</span> s
        </>
      )}
      {ended && may && (
        <button
          type="button"
          className="ml-2 text-soft underline decoration-dotted hover:text-ink"
          onClick={() => setAsking(true)}
        >
          Discard<span className="sr-only"> {run.name}</span>
        </button>
      )}
    </Fact>
  )
}

function Reason({ run, onDone }: { run: Run; onDone: () => void }) {
  const [reason, setReason] = useState('')
  const discard = async () => {
    if (reason.trim() && (await discardRun(run.id, reason.trim()))) onDone()
  }
  return (
    <input
      autoFocus
      aria-label={`Why ${run.name} is discarded`}
      placeholder="Why? Enter discards it, Esc leaves it"
      value={reason}
      maxLength={200}
      onChange={(e) => setReason(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') void discard()
        if (e.key === 'Escape') onDone()
      }}
      className="my-1 h-8 w-full rounded border border-petrol bg-sheet px-2 text-small"
    />
  )
}
