import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import {
  changeSensor,
  instrumentQuery,
  kindsQuery,
  retireSensor,
  type Instrument,
  type SensorKind,
} from '../api/library'
import { useMay } from '../api/queries'
import type { StageContext } from '../frame/stage'
import { Button } from '../ui/Button'
import { InputSign } from '../ui/Diamond'
import { EditableText } from '../ui/Editable'
import { Section } from '../ui/Fact'
import { attempt } from '../ui/notices'
import { Certificates } from './Certificates'
import { Picture, PictureActions } from './Picture'
import { PlugAndCores } from './PlugAndCores'
import { WireIt } from './WireIt'

/** One instrument: plug and cores, certificates with their history, and all its fields. */
export function InstrumentPanel({ id, stage }: { id: number; stage: StageContext }) {
  const found = useQuery(instrumentQuery(id)).data
  const may = useMay('keep the library')
  if (!found) return <section className="col" aria-label="Instrument" />
  return (
    <section className="col" aria-label="Instrument">
      <div className="bar">
        <InputSign signal={found.signal} size={20} active={found.active_arms} />
        <h2>{found.serial}</h2>
        <span className="truncate text-soft">
          {found.retired_at ? 'out of use' : found.where || 'in store'}
        </span>
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto">
        <Picture instrument={found} />
        <PlugAndCores instrument={found} may={may} />
        <Certificates instrument={found} />
        <Fields instrument={found} may={may} />
      </div>
      <div className="flex flex-none flex-wrap items-center gap-2 border-t border-rule bg-paper px-4 py-2">
        {!found.retired_at && <WireIt instrument={found} stage={stage} />}
        {may && <Retire instrument={found} />}
      </div>
    </section>
  )
}

function Fields({ instrument, may }: { instrument: Instrument; may: boolean }) {
  const kinds = useQuery(kindsQuery).data ?? []
  const kind = kinds.find((k) => k.name === instrument.kind)
  const connection = kind?.connections.find((c) => c.name === instrument.record.connection)
  const save = (name: string) => (text: string) => changeSensor(instrument.id, { [name]: text })
  const field = (name: string, label: string) => (
    <EditableText
      key={name}
      label={label}
      value={instrument.record[name] ?? ''}
      disabled={!may}
      onSave={save(name)}
    />
  )
  return (
    <Section title="What it is">
      {field('name', 'Name')}
      {field('serial', 'Serial')}
      {connection?.fields.map((f) => field(f.name, labelOf(f, instrument.record[f.name])))}
      {field('place', 'Kept at')}
      {field('note', 'Note')}
      {may && <PictureActions instrument={instrument} />}
    </Section>
  )
}

/** With its unit, unless the text has it already. */
const labelOf = (f: SensorKind['connections'][number]['fields'][number], text = '') =>
  f.unit && !text.endsWith(f.unit) ? `${f.label}, ${f.unit}` : f.label

function Retire({ instrument }: { instrument: Instrument }) {
  const [busy, setBusy] = useState(false)
  const back = instrument.retired_at !== null
  const press = async () => {
    setBusy(true)
    await attempt(retireSensor(instrument.id, back))
    setBusy(false)
  }
  return (
    <Button disabled={busy} onClick={() => void press()}>
      {back ? 'Take into use again' : 'Take out of use'}
    </Button>
  )
}
