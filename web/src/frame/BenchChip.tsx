import { useQuery } from '@tanstack/react-query'
import { Popover } from 'radix-ui'
import { useState, type FormEvent } from 'react'

import type { Bench } from '../api/client'
import { handOver, takeYoke } from '../api/actions'
import { sessionQuery, useMay } from '../api/queries'
import { useConnection } from '../live/LiveProvider'
import { Button } from '../ui/Button'
import { Icon } from '../ui/Icon'

/** Which bench, its link, and who holds its yoke. */
export function BenchChip({ bench }: { bench: Bench }) {
  const connection = useConnection()
  const may = useMay('drive the bench')
  const role = useQuery(sessionQuery).data?.role
  const linked = connection === 'live' && bench.devices.every((d) => d.link === 'linked')
  const away = bench.devices.filter((d) => d.link !== 'linked').map((d) => d.label)
  const words =
    connection === 'stale' || connection === 'connecting'
      ? 'no readings'
      : linked
        ? 'linked'
        : `${away.join(', ')} not linked`
  return (
    <div className="flex h-full items-center gap-2.5 border-l border-rule px-3.5 whitespace-nowrap">
      <span
        className={`size-2 flex-none ${linked ? 'rounded-full bg-moss' : 'rotate-45 bg-signal'}`}
        aria-hidden
      />
      <span>
        <b className="font-strong">{bench.name}</b>{' '}
        <span className={linked ? 'text-soft' : 'font-strong text-signal'}>{words}</span>
      </span>
      {bench.yoke_mine || !may || !bench.yoke_holder ? (
        <YokeButton bench={bench} may={may} />
      ) : (
        <Popover.Root>
          <Popover.Trigger className="flex h-6 items-center gap-1.5 rounded border border-rule-strong px-2 text-small font-semibold">
            <Icon name="yoke" size={14} />
            Yoke: {bench.yoke_me_elsewhere ? 'you, elsewhere' : bench.yoke_holder}
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              align="end"
              sideOffset={6}
              className="z-40 w-70 rounded border border-rule bg-sheet p-3.5 shadow-lifted"
            >
              <YokeElsewhere bench={bench} mayTake={role === 'engineer'} />
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      )}
    </div>
  )
}

/** Somebody else drives, or the same person in another browser: who may take the yoke, and how. */
function YokeElsewhere({ bench, mayTake }: { bench: Bench; mayTake: boolean }) {
  const [reason, setReason] = useState('')
  if (bench.yoke_me_elsewhere)
    return (
      <>
        <p className="pb-2.5 text-soft">You hold it in another browser; here you watch.</p>
        <Button onClick={() => void takeYoke(bench.id)}>Take it here</Button>
      </>
    )
  const take = (event: FormEvent) => {
    event.preventDefault()
    void takeYoke(bench.id, reason.trim())
  }
  return (
    <form onSubmit={take}>
      <p className="text-soft">{bench.yoke_holder} drives the bench; you watch.</p>
      {mayTake && (
        <>
          <label className="block py-2.5 text-soft">
            Why you take it, for the ledger
            <input
              value={reason}
              maxLength={80}
              onChange={(e) => setReason(e.target.value)}
              className="mt-1 block h-7 w-full rounded border border-rule-strong bg-paper px-2 text-ink"
            />
          </label>
          <Button type="submit" waits={reason.trim() ? undefined : 'Needs a reason'}>
            Take it from {bench.yoke_holder}
          </Button>
        </>
      )}
    </form>
  )
}

function YokeButton({ bench, may }: { bench: Bench; may: boolean }) {
  if (bench.yoke_mine)
    return (
      <button
        type="button"
        onClick={() => void handOver(bench.id)}
        title="Hand over: let go of the yoke"
        className="flex h-6 items-center gap-1.5 rounded bg-petrol px-2 text-small font-semibold text-on-petrol"
      >
        <Icon name="yoke" size={14} />
        Yoke: you
        <span className="sr-only">, hand over</span>
      </button>
    )
  if (!may) return <span className="text-small text-soft">Yoke: {bench.yoke_holder || 'free'}</span>
  return (
    <button
      type="button"
      onClick={() => void takeYoke(bench.id)}
      className="flex h-6 items-center gap-1.5 rounded border border-petrol px-2 text-small font-strong text-petrol"
    >
      <Icon name="yoke" size={14} />
      Take the yoke
    </button>
  )
}
