import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'

import { ProblemError, type Bench } from '../api/client'
import { tryAddress, type Address, type Trial } from '../api/devices'
import { putDevice } from '../api/projects'
import { driversQuery } from '../api/queries'
import { Button } from '../ui/Button'
import { Form, SelectField, TextField } from '../ui/Form'
import { figure } from '../ui/format'
import { say } from '../ui/notices'
import { fromSi, signalUnit } from '../ui/units'
import { freeLabel } from './labels'

interface Props {
  bench: Bench
  /** What was chosen among the found ones. */
  asked: Address | null
}

type Answer = Trial | ProblemError | 'asking'

/** An address: what answers there and reads now, or the reason; then it can be added. */
export function TryAddress({ bench, asked }: Props) {
  const drivers = useQuery(driversQuery).data ?? []
  const [answer, setAnswer] = useState<Answer | null>(null)
  const [driver, setDriver] = useState(asked?.driver ?? 'bridge amplifier')
  const form = useRef<HTMLDivElement>(null)
  const test = async () => {
    const fields = form.current!.closest('form')!
    const { host, port } = Object.fromEntries(new FormData(fields)) as Record<string, string>
    setAnswer('asking')
    try {
      const address = { driver, host: host!.trim(), port: Number(port || 0) }
      setAnswer(await tryAddress(bench.id, address))
    } catch (error) {
      setAnswer(ProblemError.of(error))
    }
  }
  return (
    <Form
      label="Add a device by its address"
      action="Add it to the bench"
      onSubmit={async ({ label = '', host = '', port }) => {
        await putDevice(bench.id, { label, driver, host: host.trim(), port: Number(port || 0) })
        say(`${label} is on ${bench.name}`)
        setAnswer(null)
      }}
    >
      <div ref={form} className="grid grid-cols-[1fr_64px] gap-2">
        <SelectField
          name="driver"
          label="What it is"
          value={driver}
          onChange={setDriver}
          options={drivers.map((d) => [d.name, d.name])}
        />
        <TextField
          key={driver}
          name="label"
          label="Label"
          value={freeLabel(driver, bench)}
          required
        />
        <TextField
          name="host"
          label={driver === 'line gauge' ? 'Address or serial line' : 'Address'}
          value={asked?.host ?? ''}
          required
        />
        <TextField name="port" label="Port" value={asked ? `${asked.port}` : ''} />
      </div>
      <div className="flex items-center gap-2">
        <Button disabled={answer === 'asking'} onClick={() => void test()}>
          {answer === 'asking' ? 'Asking it' : 'Test the connection'}
        </Button>
      </div>
      {answer && answer !== 'asking' && <Said answer={answer} />}
    </Form>
  )
}

function Said({ answer }: { answer: Trial | ProblemError }) {
  if (answer instanceof ProblemError)
    return (
      <p role="alert" className="text-small leading-4 text-signal">
        <b className="font-strong">{answer.title}</b> {answer.hint}
      </p>
    )
  return (
    <div role="status" className="rounded border border-rule bg-paper px-2.5 py-1.5 text-small">
      <p>
        <b className="font-strong text-moss">It answers:</b> {answer.model}
        {answer.serial && `, serial ${answer.serial}`}
        {answer.firmware && `, firmware ${answer.firmware}`}
      </p>
      {answer.controlled_by && answer.controlled_by !== 'nobody' && (
        <p className="text-marking-ink">{answer.controlled_by} controls it now</p>
      )}
      {answer.stands && <p>{answer.stands}</p>}
      <ul className="grid grid-cols-2 gap-x-3">
        {answer.readings.map((r) => (
          <li key={r.number} className="flex justify-between gap-1">
            <span className="text-soft">{r.number}</span>
            {r.value === null ? (
              <span className="text-soft">clipped</span>
            ) : (
              <span>
                <span className="figure">{figure(fromSi(r.value, signalUnit(r.signal)), 4)}</span>{' '}
                <span className="text-soft">{unitOf(r.signal)}</span>
              </span>
            )}
          </li>
        ))}
      </ul>
    </div>
  )
}

/** A number that comes ready made has the unit that the device shows. */
const unitOf = (signal: string): string => (signal === 'value' ? '' : signalUnit(signal))
