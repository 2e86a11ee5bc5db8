import { useState } from 'react'

import { wireSensor } from '../api/actions'
import type { Instrument } from '../api/library'
import { queryClient, useMay } from '../api/queries'
import type { StageContext } from '../frame/stage'
import { Button } from '../ui/Button'
import { attempt, say } from '../ui/notices'

/** Give a free input of this bench the instrument. */
export function WireIt({ instrument, stage }: { instrument: Instrument; stage: StageContext }) {
  const { setup, bench, choose } = stage
  const may = useMay('wire channels')
  const taken = new Set(setup.channels.map((c) => c.input_id))
  const here = setup.channels.find((c) => c.sensor.id === instrument.id)
  const free = bench.devices.flatMap((d) =>
    d.inputs
      .filter((i) => i.signal === instrument.signal && !taken.has(i.id))
      .map((i) => ({ id: i.id, label: `${d.label}.${i.number}` })),
  )
  const [chosen, setChosen] = useState<number | null>(null)
  const input = free.find((i) => i.id === chosen) ?? free[0]
  if (!may) return null
  if (here) return <span className="text-soft">wired as {here.name} in this setup</span>
  if (!input) return <span className="text-soft">no free input here measures what it gives</span>
  const names = setup.free_names
  const name = names[instrument.named_as] ?? instrument.serial
  const wire = async () => {
    const body = { input_id: input.id, sensor_id: instrument.id, name }
    const changed = await attempt(wireSensor(setup.id, body))
    if (!changed) return
    void queryClient.invalidateQueries({ queryKey: ['library'] })
    choose(changed.channels.find((c) => c.input_id === input.id)?.id ?? null)
    say(`${instrument.serial} is wired to ${input.label} as ${name}.`)
  }
  return (
    <>
      <Button look={instrument.where ? 'plain' : 'go'} size={36} onClick={() => void wire()}>
        Wire to {input.label}
      </Button>
      <select
        aria-label="Input"
        value={input.id}
        onChange={(e) => setChosen(Number(e.target.value))}
        className="h-9 rounded border border-rule-strong bg-sheet px-1"
      >
        {free.map((i) => (
          <option key={i.id} value={i.id}>
            {i.label}
          </option>
        ))}
      </select>
    </>
  )
}
