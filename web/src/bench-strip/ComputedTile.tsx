import type { Computed } from '../api/computed'
import { useComputed } from '../computed/useComputed'
import { ComputedSign } from '../ui/Diamond'
import { Reading } from '../ui/Reading'

/** The live value of a computed channel, with its lowest and highest. */
export function ComputedTile({ channel: c }: { channel: Computed }) {
  const { reading, problem, show } = useComputed(c)
  return (
    <div
      className="flex flex-col justify-center overflow-hidden border-r border-rule px-2.5 pt-1.75"
      title={c.formula}
    >
      <span className="flex h-4 items-center gap-1.5 text-body font-semibold">
        <ComputedSign size={14} />
        <span className="truncate">{c.name}</span>
      </span>
      <span className="mt-px flex h-6.75 items-baseline gap-1.5 leading-6.75">
        {reading && !Number.isNaN(reading.value) ? (
          <Reading
            className="min-w-24 text-right text-state font-number"
            text={show(reading.value)}
          />
        ) : (
          <span className="figure text-state font-number text-soft">– – –</span>
        )}
        <span className="text-small text-soft">{c.unit}</span>
      </span>
      <span className="figure block truncate text-note leading-3.5 text-soft">
        {problem ? (
          <span className="font-sans text-signal" title={problem}>
            {problem}
          </span>
        ) : reading && Number.isFinite(reading.lowest) ? (
          <>
            {show(reading.lowest)} <span className="font-sans">to</span> {show(reading.highest)}
          </>
        ) : (
          <span className="font-sans">{reading ? 'not known yet' : 'no reading'}</span>
        )}
      </span>
    </div>
  )
}
