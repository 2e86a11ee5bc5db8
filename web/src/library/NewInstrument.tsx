import { useState } from 'react'

import { addSensor, type SensorKind } from '../api/library'
import { Form, SelectField, TextField } from '../ui/Form'

interface Props {
  kinds: readonly SensorKind[]
  onDone: (id: number | null) => void
}

const LOOK =
  'mt-0.5 block h-8 w-full rounded border border-rule-strong bg-paper px-2 text-body text-ink'

/** A new instrument: its kind says how it may be connected, and that which fields it needs. */
export function NewInstrument({ kinds, onDone }: Props) {
  const [kindName, setKind] = useState('load cell')
  const [connectionName, setConnection] = useState('')
  const kind = kinds.find((k) => k.name === kindName) ?? kinds[0]
  if (!kind) return null
  const connection = kind.connections.find((c) => c.name === connectionName) ?? kind.connections[0]!
  const add = async (fields: Record<string, string>) => onDone((await addSensor(fields)).id)
  return (
    <section className="col overflow-y-auto" aria-label="New instrument">
      <div className="bar">
        <h2>New instrument</h2>
      </div>
      <div className="p-4">
        <Form label="New instrument" action="Add it" onSubmit={add} onCancel={() => onDone(null)}>
          <label className="block text-small text-soft">
            Kind
            <select
              name="kind"
              value={kindName}
              onChange={(e) => {
                setKind(e.target.value)
                setConnection('')
              }}
              className={LOOK}
            >
              {kinds.map((k) => (
                <option key={k.name}>{k.name}</option>
              ))}
            </select>
          </label>
          <label className="block text-small text-soft">
            Connection
            <select
              name="connection"
              value={connection.name}
              onChange={(e) => setConnection(e.target.value)}
              className={LOOK}
            >
              {kind.connections.map((c) => (
                <option key={c.name}>{c.name}</option>
              ))}
            </select>
          </label>
          <TextField name="name" label="Name" required />
          <TextField name="serial" label="Serial" required />
          {connection.fields.map((f) =>
            f.choices.length ? (
              <SelectField
                key={f.name}
                name={f.name}
                label={f.label}
                options={f.choices.map((c) => [c, c] as const)}
              />
            ) : (
              <TextField
                key={f.name}
                name={f.name}
                label={`${f.label}${f.unit && `, ${f.unit}`}${f.optional ? ' (if known)' : ''}`}
              />
            ),
          )}
          <TextField name="place" label="Kept at" />
        </Form>
      </div>
    </section>
  )
}
