import { useState } from 'react'

import type { Bench } from '../api/client'
import { findDevices, type Address, type Found } from '../api/devices'
import { putDevice } from '../api/projects'
import { Button } from '../ui/Button'
import { Section } from '../ui/Fact'
import { attempt, say } from '../ui/notices'
import { freeLabel } from './labels'
import { spokenAddress } from './link'
import { TryAddress } from './TryAddress'

/** Devices that announce themselves, each with what can be done with it; and one by address. */
export function OnTheNetwork({ bench }: { bench: Bench }) {
  const [found, setFound] = useState<Found[] | null>(null)
  const [looking, setLooking] = useState(false)
  const [asked, ask] = useState<Address | null>(null)
  // What is on a bench where it was is no news.
  const known = found?.filter((f) => f.on && !(f.moved && f.on === bench.name)) ?? []
  const fresh = found?.filter((f) => !known.includes(f)) ?? []
  const look = async () => {
    setLooking(true)
    const answer = await attempt(findDevices(bench.id))
    setLooking(false)
    if (answer) setFound(answer)
  }
  return (
    <>
      <Section title="On the network">
        {found?.length === 0 && (
          <p className="mb-2 text-small text-soft">
            Nothing announces itself there. Check that the devices are switched on, or add one by
            its address.
          </p>
        )}
        <ul className="mb-2">
          {fresh.map((f) => (
            <DiscoveredDevice
              key={spokenAddress(f)}
              bench={bench}
              found={f}
              onTry={ask}
              onDone={() => void look()}
            />
          ))}
        </ul>
        {known.length > 0 && (
          <details className="mb-2 text-small text-soft">
            <summary className="cursor-default">
              <span className="figure">{known.length}</span> are on a bench already
            </summary>
            <ul>
              {known.map((f) => (
                <li
                  key={spokenAddress(f)}
                  className="flex justify-between gap-2 border-t border-rule py-1 text-small text-soft first:border-t-0"
                >
                  <span className="truncate">
                    {f.model} <span className="figure">{f.serial}</span>
                  </span>
                  <span className="flex-none">
                    {f.on === bench.name ? `${f.label} here` : `${f.label}, ${f.on}`}
                  </span>
                </li>
              ))}
            </ul>
          </details>
        )}
        <Button
          look={bench.devices.length ? 'plain' : 'go'}
          size={bench.devices.length ? 28 : 36}
          disabled={looking}
          onClick={() => void look()}
        >
          {looking ? 'Looking, some seconds' : found ? 'Look again' : 'Find devices'}
        </Button>
      </Section>
      <Section title="By its address">
        <TryAddress key={asked ? spokenAddress(asked) : ''} bench={bench} asked={asked} />
      </Section>
    </>
  )
}

interface FoundProps {
  bench: Bench
  found: Found
  onTry: (address: Address) => void
  onDone: () => void
}

function DiscoveredDevice({ bench, found: f, onTry, onDone }: FoundProps) {
  const { driver, host, port } = f
  const move = async () => {
    const done = await attempt(
      putDevice(bench.id, { label: f.label, driver, host, port }).then(() => true),
    )
    if (!done) return
    say(`${f.label} is at ${spokenAddress(f)} now`)
    onDone()
  }
  return (
    <li className="border-t border-rule py-1.5 text-small first:border-t-0">
      <div className="flex justify-between gap-2">
        <b className="truncate font-strong">{f.model}</b>
        <span className="figure">{f.serial}</span>
      </div>
      <div className="flex items-center justify-between gap-2">
        <span className="figure truncate text-soft">{spokenAddress(f)}</span>
        {!driver && <span className="text-soft">no driver for it</span>}
        {driver && !f.on && (
          <button
            type="button"
            className="font-number text-petrol underline underline-offset-2"
            onClick={() => onTry({ driver, host, port })}
          >
            Add it as {freeLabel(driver, bench)}
          </button>
        )}
        {f.on && (
          <button
            type="button"
            className="font-number text-petrol underline underline-offset-2"
            onClick={() => void move()}
          >
            Move {f.label} here
          </button>
        )}
      </div>
    </li>
  )
}
