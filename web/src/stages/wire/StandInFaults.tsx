import { useState } from 'react'

import type { Bench, Channel, Setup } from '../../api/client'
import { pretend } from '../../api/actions'
import { inputKind } from '../../kinds/inputs'
import { Section } from '../../ui/Fact'

/** Only where the device is a stand-in: it can be made to be wrong, to see the check find it. */
export function StandInFaults(props: { channel: Channel; bench: Bench; setup: Setup }) {
  const { channel, bench, setup } = props
  const [busy, setBusy] = useState(false)
  const device = bench.devices.find((d) => d.id === channel.device_id)
  const { faults } = inputKind(channel)
  if (!device?.capabilities.includes('pretends') || !faults) return null
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
          className="h-6 max-w-45 rounded border border-rule-strong bg-sheet px-1 disabled:opacity-60"
        >
          <option value="-" disabled>
            {bench.yoke_mine ? 'choose' : 'needs the yoke'}
          </option>
          {[['', 'well'] as const, ...faults(channel), ...moved].map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </select>
      </label>
    </Section>
  )
}
