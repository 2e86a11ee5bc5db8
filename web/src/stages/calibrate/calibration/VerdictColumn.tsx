import { useState } from 'react'

import {
  acceptCalibration,
  giveUpCalibration,
  printCertificate,
  type Calibration,
  type Evaluation,
} from '../../../api/calibrations'
import type { Channel } from '../../../api/client'
import { useMay } from '../../../api/queries'
import { Button } from '../../../ui/Button'
import { ConfirmedButton } from '../../../ui/ConfirmedButton'
import { Form, TextField } from '../../../ui/Form'
import { MINUS, figure, significant } from '../../../ui/format'
import { attempt } from '../../../ui/notices'
import { signalUnit, spanFromSi } from '../../../ui/units'
import { BudgetTable } from './BudgetTable'

interface Props {
  calibration: Calibration
  channel: Channel
  onClose: () => void
}

/** What the captures come to: sensitivity, characteristics, class, and how it is put in force. */
export function VerdictColumn({ calibration, channel, onClose }: Props) {
  const [shown, show] = useState<'class' | 'budget'>('class')
  const { evaluation } = calibration
  return (
    <div className="flex min-h-0 flex-col overflow-auto bg-sheet px-4 py-3">
      {evaluation && <Sensitivity evaluation={evaluation} channel={channel} />}
      {evaluation && (
        <div className="py-2">
          <Button size={24} onClick={() => show(shown === 'class' ? 'budget' : 'class')}>
            {shown === 'class' ? 'Show the budget' : 'Show the class'}
          </Button>
        </div>
      )}
      {evaluation &&
        (shown === 'class' ? (
          <SoFar evaluation={evaluation} />
        ) : (
          <BudgetTable evaluation={evaluation} unit={channel.unit} />
        ))}
      <div className="mt-auto flex flex-col gap-2 pt-3">
        <InForce calibration={calibration} onClose={onClose} />
      </div>
    </div>
  )
}

const percent = (share: number | null | undefined, decimals = 3) =>
  share == null ? 'not tried' : figure(share * 100, decimals)

function Sensitivity({ evaluation, channel }: { evaluation: Evaluation; channel: Channel }) {
  const signal = signalUnit(channel.signal)
  const slope = (perSignal: number) => spanFromSi(perSignal, channel.unit) / spanFromSi(1, signal)
  const change = (evaluation.per_signal / evaluation.per_signal_before - 1) * 100
  return (
    <p className="leading-5">
      <span className="figure text-title font-number">
        {significant(slope(evaluation.per_signal))}
      </span>{' '}
      <span className="text-soft">
        {channel.unit} per {signal}
      </span>
      <span className="block text-small text-soft">
        in force: {significant(slope(evaluation.per_signal_before))} ({change < 0 ? MINUS : '+'}
        {Math.abs(change).toFixed(3)} %)
      </span>
    </p>
  )
}

function SoFar({ evaluation }: { evaluation: Evaluation }) {
  const { classification: classed } = evaluation
  const rest = [
    ['Non-linearity', evaluation.nonlinearity],
    ['Hysteresis', evaluation.hysteresis],
    ...(evaluation.creep == null ? [] : [['Creep, 30 s to 300 s', evaluation.creep] as const]),
  ] as const
  return (
    <>
      <table className="w-full text-small">
        <thead>
          <tr className="text-left text-soft">
            <th className="font-normal">So far</th>
            <th className="text-right font-normal">%</th>
            <th className="text-right font-normal">class</th>
          </tr>
        </thead>
        <tbody>
          {(classed?.verdicts ?? []).map((v) => (
            <tr key={v.characteristic} className="border-t border-rule leading-5">
              <td className="first-letter:uppercase">{v.characteristic}</td>
              <td className="figure text-right">{percent(v.worst)}</td>
              <td className={`text-right ${v.name ? '' : 'font-strong text-marking-ink'}`}>
                {v.name || 'none'}
              </td>
            </tr>
          ))}
          {rest.map(([name, value]) => (
            <tr key={name} className="border-t border-rule leading-5">
              <td>{name}</td>
              <td className="figure text-right">{percent(value)}</td>
              <td />
            </tr>
          ))}
          <tr className="border-t border-ink leading-5">
            <td>Uncertainty, k = 2</td>
            <td className="figure text-right font-number">{percent(evaluation.expanded)}</td>
            <td />
          </tr>
        </tbody>
      </table>
      {classed && (
        <p className="pt-2 text-small leading-4">
          <b className="mr-2 text-lead font-strong">
            {classed.name ? `Class ${classed.name}` : 'No class'}
          </b>
          <span className="text-soft">
            {classed.standard}
            {classed.limited_by && `, set by the ${classed.limited_by}`}.
            {classed.lacks.length > 0 &&
              ` Not by the whole standard, which also asks for: ${classed.lacks.join('; ')}.`}
          </span>
        </p>
      )}
    </>
  )
}

function InForce({ calibration, onClose }: { calibration: Calibration; onClose: () => void }) {
  const may = useMay('change scaling')
  const [asking, ask] = useState(false)
  const left = calibration.steps.filter((s) => !s.captured && !s.left_out).length
  if (calibration.state === 'accepted')
    return (
      <>
        {calibration.has_file ? (
          <a
            className="text-petrol underline"
            href={`/api/certificates/${calibration.certificate_id}/file`}
          >
            Certificate {calibration.certificate} (PDF)
          </a>
        ) : (
          <Button onClick={() => void attempt(printCertificate(calibration.id))}>
            PDF is being made; make it anew
          </Button>
        )}
        <Button onClick={onClose}>Close</Button>
      </>
    )
  if (calibration.state === 'given up') return <Button onClick={onClose}>Close</Button>
  if (asking) return <Accept calibration={calibration} onDone={() => ask(false)} />
  const waits = left
    ? `Put in force after ${left} more ${left === 1 ? 'step' : 'steps'}`
    : may
      ? undefined
      : 'An engineer puts it in force'
  return (
    <>
      <Button look="go" size={36} waits={waits} onClick={() => ask(true)}>
        Put in force…
      </Button>
      <ConfirmedButton
        action="Give up"
        warning="What was captured stays, without a certificate."
        onConfirm={() => void attempt(giveUpCalibration(calibration.id))}
      />
    </>
  )
}

function Accept({ calibration, onDone }: { calibration: Calibration; onDone: () => void }) {
  return (
    <Form
      label="Put the calibration in force"
      action="Put in force"
      onCancel={onDone}
      onSubmit={async ({ number, due }) => {
        await acceptCalibration(calibration.id, number!, due || null)
        onDone()
      }}
    >
      <TextField name="number" label="Number of the certificate" required autoFocus />
      <TextField name="due" label="Due on" type="date" />
    </Form>
  )
}
