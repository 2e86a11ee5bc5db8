import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ProblemError, type Bench, type Sensor, type Setup } from '../../api/client'
import { wireSensor } from '../../api/actions'
import { sensorsQuery, useMay } from '../../api/queries'
import { useStage } from '../../frame/stage'
import { Button } from '../../ui/Button'
import { InputSign } from '../../ui/Diamond'
import { UndoRedo } from './ChannelInspector'
import { row } from '../../ui/row'

type Device = Bench['devices'][number]

interface Props {
  setup: Setup
  device: Device
  input: Device['inputs'][number]
  onWired: () => void
}

/** A free input: choose a sensor from the library and name the channel. */
export function GiveSensor({ setup, device, input, onWired }: Props) {
  const { choose } = useStage()
  const may = useMay('wire channels')
  const used = new Set(setup.channels.map((c) => c.sensor.id))
  const [search, setSearch] = useState('')
  const [sensor, setSensor] = useState<Sensor | null>(null)
  const [name, setName] = useState('')
  const [problem, setProblem] = useState<ProblemError | null>(null)
  const page = useQuery(sensorsQuery(search, input.signal)).data
  const found = page?.items ?? []
  const wire = async () => {
    if (!sensor) return
    try {
      const body = { input_id: input.id, sensor_id: sensor.id, name }
      const changed = await wireSensor(setup.id, body)
      onWired()
      choose(changed.channels.find((c) => c.input_id === input.id)?.id ?? null)
    } catch (error) {
      setProblem(ProblemError.of(error))
    }
  }
  return (
    <section className="col col-span-2" aria-label={`Sensor for input ${input.label}`}>
      <div className="bar">
        <h1>
          Input {device.label}.{input.number} is free
        </h1>
        <span className="text-soft">choose its sensor from the library</span>
        <UndoRedo setup={setup} />
      </div>
      <div className="border-b border-rule p-4">
        <input
          value={search}
          onChange={(e) => setSearch(e.target.value)}
          placeholder="Search by kind, name or serial"
          aria-label="Search the sensor library"
          className="h-9 w-90 rounded border border-rule-strong bg-paper px-2.5 text-lead"
        />
      </div>
      <ul className="min-h-0 flex-1 overflow-auto" role="listbox" aria-label="Sensors">
        {found.map((s) => {
          const taken = used.has(s.id)
          return (
            <li key={s.id} role="option" aria-selected={sensor?.id === s.id} aria-disabled={taken}>
              <button
                type="button"
                disabled={taken}
                onClick={() => {
                  setSensor(s)
                  setName(setup.free_names[s.named_as] ?? '')
                }}
                className={row({
                  chosen: sensor?.id === s.id,
                  className:
                    'grid w-full grid-cols-[24px_260px_140px_1fr_auto] items-center gap-3 border-b border-rule px-4 py-2 text-left disabled:text-soft',
                })}
              >
                <InputSign signal={s.signal} size={20} active={s.active_arms} />
                <b className="font-strong">{s.name}</b>
                <span>{s.serial}</span>
                <span className="text-soft">{s.connection}</span>
                <span className="text-soft">
                  {taken ? 'wired in this setup' : s.due_on ? `due ${s.due_on}` : 'no certificate'}
                </span>
              </button>
            </li>
          )
        })}
        {page?.count === 0 && (
          <li className="p-4 text-soft">No sensor matches. Search for less.</li>
        )}
        {page?.next && (
          <li className="p-4 text-soft">
            {page.count - found.length} more: type a part of the kind, name or serial.
          </li>
        )}
      </ul>
      <div className="flex flex-none items-center gap-3 border-t border-rule p-4">
        <label className="flex items-center gap-2 text-soft">
          Channel name
          <input
            value={name}
            maxLength={30}
            onChange={(e) => setName(e.target.value)}
            className="h-9 w-45 rounded border border-rule-strong bg-paper px-2.5 text-lead text-ink"
          />
        </label>
        <Button
          look="go"
          size={36}
          waits={!may ? 'Reviewers only read' : !sensor ? 'Choose a sensor first' : undefined}
          onClick={() => void wire()}
        >
          Wire {name || 'it'} to input {input.label}
        </Button>
        {problem && (
          <p role="alert" className="text-signal">
            <b className="font-strong">{problem.title}</b> {problem.hint}
          </p>
        )}
      </div>
    </section>
  )
}
