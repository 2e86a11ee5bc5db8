import { useState } from 'react'

import { addCertificate, attachFile, type Instrument } from '../api/library'
import { ProblemError } from '../api/client'
import { useMay } from '../api/queries'
import { Button } from '../ui/Button'
import { Section } from '../ui/Fact'
import { FileButton } from '../ui/FileButton'
import { Form, TextField } from '../ui/Form'
import { signalUnit, unitsOf } from '../ui/units'
import { History } from './History'

/** The certificate in force, those before it, and what the rated output did meanwhile. */
export function Certificates({ instrument }: { instrument: Instrument }) {
  const may = useMay('keep certificates')
  const [adding, setAdding] = useState(false)
  const newest = instrument.certificates.at(-1)
  const { status: state, words } = instrument.calibration_status
  const tone =
    state === 'overdue' ? 'text-signal' : state === 'soon' ? 'text-marking-ink' : 'text-soft'
  return (
    <Section title={newest ? `Certificate ${newest.number}` : 'Certificate'}>
      {newest ? (
        <p className="text-small">
          calibrated <span className="figure">{newest.calibrated_on}</span>
          {newest.expanded !== null && `, ± ${+(newest.expanded * 100).toPrecision(2)} %`}
          {newest.instrument_class && `, ${newest.instrument_class}`}
          {newest.due_on && (
            <span className={tone}>
              {', '}
              {state === 'in force' ? 'due ' : ''}
              {words}
            </span>
          )}
        </p>
      ) : (
        <p className="text-small text-soft">none yet</p>
      )}
      {newest && <FileOf certificate={newest} may={may} />}
      <History instrument={instrument} />
      {may && !adding && (
        <Button size={24} onClick={() => setAdding(true)}>
          New certificate
        </Button>
      )}
      {adding && <NewCertificate instrument={instrument} onDone={() => setAdding(false)} />}
    </Section>
  )
}

function FileOf(props: { certificate: Instrument['certificates'][number]; may: boolean }) {
  const { certificate, may } = props
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState<ProblemError | null>(null)
  if (certificate.has_file)
    return (
      <a
        className="text-small text-petrol underline underline-offset-2"
        href={`/api/certificates/${certificate.id}/file`}
      >
        {certificate.file_name}
      </a>
    )
  if (!may) return null
  const send = async (file: File) => {
    setBusy(true)
    setProblem(null)
    await attachFile(certificate.id, file).catch((e: unknown) => setProblem(ProblemError.of(e)))
    setBusy(false)
  }
  return (
    <>
      {problem && (
        <p role="alert" className="text-small text-signal">
          <b className="font-strong">{problem.title}</b> {problem.hint}
        </p>
      )}
      <FileButton accept="application/pdf" disabled={busy} onFile={send}>
        {busy ? 'Sending' : 'Attach its PDF'}
      </FileButton>
    </>
  )
}

function NewCertificate({ instrument, onDone }: { instrument: Instrument; onDone: () => void }) {
  const bridge = 'rated_output' in instrument.spec
  const add = async (fields: Record<string, string>) => {
    await addCertificate(instrument.id, {
      number: fields.number ?? '',
      calibrated_on: fields.calibrated_on ?? '',
      due_on: fields.due_on || null,
      rated_output: fields.rated_output ?? '',
      expanded: fields.expanded ?? '',
      instrument_class: fields.instrument_class ?? '',
      points: fields.points ?? '',
    })
    onDone()
  }
  return (
    <Form label="New certificate" action="Add it" onSubmit={add} onCancel={onDone}>
      <TextField name="number" label="Number" required autoFocus />
      <TextField name="calibrated_on" label="Calibrated on" type="date" required />
      <TextField name="due_on" label="Due on" type="date" />
      {bridge && <TextField name="rated_output" label="Rated output, mV/V" />}
      <TextField name="expanded" label="Uncertainty of the reading, %, k = 2" />
      <TextField name="instrument_class" label="Class" />
      <label className="block text-small text-soft">
        Table, a line each: {unitsOf(instrument.quantity)[0]}; {signalUnit(instrument.signal)}
        <textarea
          name="points"
          rows={4}
          maxLength={8000}
          className="figure mt-0.5 block w-full rounded border border-rule-strong bg-paper px-2 py-1 text-body text-ink"
        />
      </label>
    </Form>
  )
}
