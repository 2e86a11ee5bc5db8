import { useState } from 'react'

import type { Bench, Channel, Setup } from '../../api/client'
import { pretend } from '../../api/actions'
import { Section } from '../../ui/Fact'

/** What a stand-in's input can be put into, in the words of its protocol. */
const OF_BRIDGES: readonly (readonly [string, string])[] = [
  ['', 'well'],
  ['torn 1', 'grid torn'],
  ['nothing', 'plug pulled'],
  ['resistance 0.34286', 'gauge of about a third of the resistance'],
  ['arm 1 1.03', 'arm 1 three per cent up'],
  ['leak 12 0.75', 'grid touches the part'],
  ['leak 2e7 0.75', 'insulation 20 MΩ'],
  ['hum 3e-5', 'mains hum'],
  ['drift 5e-6', 'drift'],
  ['offset 0.05', 'overloaded'],
  ['flat', 'converter stands still'],
]

/** Only where the device is a stand-in: it can be made to be wrong, to see the check find it. */
export function StandInFaults(props: { channel: Channel; bench: Bench; setup: Setup }) {
  const { channel, bench, setup } = props
  const [busy, setBusy] = useState(false)
  const device = bench.devices.find((d) => d.id === channel.device_id)
  if (!device?.capabilities.includes('pretends') || channel.wiring.kind !== 'bridge') return null
  const cores = channel.sensor.cores.map(
    (c) => [`broken ${c.pin}`, `${c.colour} core broken`] as const,
  )
  const [first, last] = [channel.sensor.cores[0], channel.sensor.cores.at(-1)]
  const swap =
    first && last && first !== last
      ? [
          [
            `swapped ${first.pin} ${last.pin}`,
            `${first.colour} and ${last.colour} swapped`,
          ] as const,
        ]
      : []
  const wired = new Set(setup.channels.map((c) => c.input_id))
  const free = device.inputs.find((i) => !wired.has(i.id))
  const moved = free ? [[`moved ${free.number}`, `moved to input ${free.label}`] as const] : []
  const put = async (faults: string) => {
    setBusy(true)
    await pretend(device.id, channel.input_number, faults)
    setBusy(false)
  }
  return (
    <Section title="Faults of the stand-in">
      <label className="flex items-center justify-between gap-2 text-small">
        <span className="text-soft">Have it be</span>
        <select
          defaultValue="-"
          disabled={busy || !bench.yoke_mine}
          onChange={(e) => void put(e.target.value)}
          className="h-6 max-w-[180px] rounded border border-rule-strong bg-sheet px-1 disabled:opacity-60"
        >
          <option value="-" disabled>
            {bench.yoke_mine ? 'choose' : 'needs the yoke'}
          </option>
          {[...OF_BRIDGES.slice(0, 1), ...cores, ...swap, ...OF_BRIDGES.slice(1), ...moved].map(
            ([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ),
          )}
        </select>
      </label>
    </Section>
  )
}
