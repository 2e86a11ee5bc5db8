import { useMay } from '../api/queries'
import type { Bench } from '../api/client'
import { releaseEmergencyStop } from '../api/actions'
import { useBenchState } from '../live/LiveProvider'
import { Button } from '../ui/Button'
import { clock } from '../ui/format'

function waitsFor(bench: Bench, may: boolean): string | undefined {
  if (!may) return 'Whoever drives the bench releases it'
  return bench.yoke_mine ? undefined : 'Take the yoke to release it'
}

/** On every stage as long as an emergency stop is in force: nothing moves until it is released. */
export function EmergencyBanner({ bench }: { bench: Bench }) {
  const latched = useBenchState()?.latched
  const may = useMay('drive the bench')
  if (!latched) return null
  const at = clock(latched.at)
  return (
    <section
      role="alert"
      aria-label="Emergency stop"
      className="flex h-14 flex-none items-center gap-4 border-b border-signal bg-signal-wash px-5"
    >
      <span aria-hidden className="size-4 flex-none rotate-45 bg-signal" />
      <p className="min-w-0 leading-4.5">
        <b className="block text-large font-heavy text-signal">Emergency stop</b>
        <span className="block truncate text-small">
          Nothing moves on {bench.name} until it is released. Given
          {latched.by && ` by ${latched.by}`} at <span className="figure">{at}</span>.
        </span>
      </p>
      <span className="ml-auto flex-none">
        <Button
          look="go"
          size={36}
          waits={waitsFor(bench, may)}
          onClick={() => void releaseEmergencyStop(bench.id)}
        >
          Release the emergency stop
        </Button>
      </span>
    </section>
  )
}
