import { useQuery } from '@tanstack/react-query'
import { DropdownMenu } from 'radix-ui'

import type { Bench } from '../api/client'
import { handOver, takeYoke } from '../api/deeds'
import { sessionQuery, useMay } from '../api/queries'
import { useConnection } from '../live/LiveProvider'
import { Icon } from '../ui/Icon'

const ITEM =
  'flex h-8 cursor-pointer items-center rounded px-2.5 outline-none data-[highlighted]:bg-petrol-wash'

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
        <b className="font-[620]">{bench.name}</b>{' '}
        <span className={linked ? 'text-soft' : 'font-[620] text-signal'}>{words}</span>
      </span>
      {bench.yoke_mine || !may || !bench.yoke_holder ? (
        <YokeButton bench={bench} may={may} />
      ) : (
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="flex h-6 items-center gap-1.5 rounded border border-rule-strong px-2 text-[12px] font-[600]">
            <Icon name="yoke" size={14} />
            Yoke: {bench.yoke_me_elsewhere ? 'you, elsewhere' : bench.yoke_holder}
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content
              align="end"
              sideOffset={6}
              className="z-40 w-[260px] rounded border border-rule bg-sheet p-1.5 shadow-[0_6px_20px_rgba(0,0,0,.2)]"
            >
              <p className="px-2.5 py-1.5 text-soft">
                {bench.yoke_me_elsewhere
                  ? 'You hold it in another browser; here you watch.'
                  : `${bench.yoke_holder} drives the bench; you watch.`}
              </p>
              {(bench.yoke_me_elsewhere || role === 'engineer') && (
                <DropdownMenu.Item className={ITEM} onSelect={() => void takeYoke(bench.id, true)}>
                  {bench.yoke_me_elsewhere ? 'Take it here' : `Take it from ${bench.yoke_holder}`}
                </DropdownMenu.Item>
              )}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
    </div>
  )
}

function YokeButton({ bench, may }: { bench: Bench; may: boolean }) {
  if (bench.yoke_mine)
    return (
      <button
        type="button"
        onClick={() => void handOver(bench.id)}
        title="Hand over: let go of the yoke"
        className="flex h-6 items-center gap-1.5 rounded bg-petrol px-2 text-[12px] font-[600] text-on-petrol"
      >
        <Icon name="yoke" size={14} />
        Yoke: you
        <span className="sr-only">, hand over</span>
      </button>
    )
  if (!may)
    return <span className="text-[12px] text-soft">Yoke: {bench.yoke_holder || 'free'}</span>
  return (
    <button
      type="button"
      onClick={() => void takeYoke(bench.id)}
      className="flex h-6 items-center gap-1.5 rounded border border-petrol px-2 text-[12px] font-[620] text-petrol"
    >
      <Icon name="yoke" size={14} />
      Take the yoke
    </button>
  )
}
