import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ProblemError, type Run, type Setup } from '../../../api/client'
import {
  addCorrection,
  effectsQuery,
  type Correction,
  type Effects,
  type RunReading,
} from '../../../api/readings'
import { SpecFields } from '../../../kinds/SpecFields'
import { correctionForm, correctionsFor } from '../../../kinds/corrections'
import { Button } from '../../../ui/Button'
import { Choice } from '../../../ui/Choice'
import { figure } from '../../../ui/format'
import { attempt } from '../../../ui/notices'
import { fromSi } from '../../../ui/units'
import { BeforeAfter } from './BeforeAfter'

interface Props {
  setup: Setup
  run: Run
  runs: readonly Run[]
  channels: readonly RunReading[]
  proposed?: Correction
  reason?: string
  onDone: () => void
}

/** One correction of some runs: what, why, how the readings change, and what becomes stale. */
export function CorrectionSheet(props: Props) {
  const { setup, run, runs, channels, onDone } = props
  const first = channels.find((c) => c.key === props.proposed?.channels[0]) ?? channels[0]!
  const [correction, setCorrection] = useState<Correction>(
    props.proposed ?? correctionForm('scale_correction')!.seed(first)!,
  )
  const [reason, setReason] = useState(props.reason ?? '')
  const [chosen, setChosen] = useState<readonly number[]>([run.id])
  const effects = useQuery(effectsQuery(setup.id, [...chosen], correction))
  const problem = effects.error ? ProblemError.of(effects.error) : null
  const channel = channels.find((c) => c.key === correction.channels[0]) ?? first
  const put = async () => {
    if (await attempt(addCorrection(setup.id, [...chosen], correction, reason.trim()))) onDone()
  }
  const waits = !chosen.length
    ? 'Choose a run first'
    : !reason.trim()
      ? 'Give a reason first'
      : undefined
  const many = chosen.length === 1 ? run.name : `${chosen.length} runs`
  return (
    <div
      role="region"
      aria-label="Correction"
      className="grid min-h-0 flex-1 grid-cols-[264px_1fr] grid-rows-[1fr_auto]"
    >
      <div className="flex min-h-0 flex-col gap-3 overflow-auto border-r border-rule p-4">
        <What
          setup={setup}
          channel={channel}
          channels={channels}
          value={correction}
          onChange={setCorrection}
        />
        <label className="block text-small text-soft">
          Reason, for the ledger and reports
          <textarea
            value={reason}
            maxLength={200}
            rows={2}
            onChange={(e) => setReason(e.target.value)}
            className="mt-0.5 block w-full rounded border border-rule-strong bg-paper px-2 py-1 text-body text-ink"
          />
        </label>
        <Runs runs={runs} chosen={chosen} onChange={setChosen} />
      </div>
      <BeforeAfter run={run} channel={channel} correction={correction} wrong={!!problem} />
      <div className="col-span-2 flex min-h-16 items-center gap-4 border-t border-rule-strong px-4 py-2">
        <Button look="go" size={36} waits={waits} disabled={!!problem} onClick={() => void put()}>
          Put {many} right
        </Button>
        <Button size={36} onClick={onDone}>
          Leave as it is
        </Button>
        <div aria-live="polite" className="min-w-0 flex-1 text-small leading-4">
          {problem ? (
            <p role="alert" className="text-signal">
              <b className="font-strong">{problem.title}</b> {problem.hint}
            </p>
          ) : (
            effects.data && <Stale effects={effects.data} />
          )}
        </div>
      </div>
    </div>
  )
}

function What(props: {
  setup: Setup
  channel: RunReading
  channels: readonly RunReading[]
  value: Correction
  onChange: (value: Correction) => void
}) {
  const { setup, channel, channels, value, onChange } = props
  const now = (key: string) => setup.channels.find((c) => c.key === key)
  const form = correctionForm(value.kind!)
  const put = (fields: object) => {
    onChange({ ...value, ...fields } as Correction)
    return Promise.resolve()
  }
  const kinds = correctionsFor(channel, now(channel.key))
  const known = kinds.some(([kind]) => kind === value.kind)
  return (
    <div>
      <Choice
        label="Channel"
        value={channel.key}
        options={channels.map((c) => [c.key, c.name] as const)}
        onChoose={(key) => {
          const other = channels.find((c) => c.key === key)!
          const fits = form?.seed(other, now(key))
          const same = form?.asNow ? fits : fits && { ...value, channels: [key] }
          onChange(same ?? correctionForm('scale_correction')!.seed(other)!)
          return Promise.resolve()
        }}
      />
      <Choice
        label="Correction"
        value={value.kind!}
        options={known ? kinds : [[value.kind!, value.kind!.replaceAll('_', ' ')], ...kinds]}
        onChoose={(kind) => {
          onChange(correctionForm(kind)!.seed(channel, now(channel.key))!)
          return Promise.resolve()
        }}
      />
      {form && (
        <SpecFields
          fields={form.fields(channel)}
          choices={form.choices?.(channel)}
          note={form.note}
          values={value}
          disabled={false}
          change={put}
        />
      )}
    </div>
  )
}

function Runs(props: {
  runs: readonly Run[]
  chosen: readonly number[]
  onChange: (ids: readonly number[]) => void
}) {
  const { runs, chosen, onChange } = props
  const turn = (id: number) =>
    onChange(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id])
  return (
    <fieldset className="min-h-0">
      <legend className="flex w-full items-baseline gap-2 pb-1">
        <b className="font-strong">Runs</b>
        <span className="text-small text-soft">
          {chosen.length} of {runs.length} chosen
        </span>
        <button
          type="button"
          className="ml-auto text-small text-petrol underline"
          onClick={() => onChange(chosen.length === runs.length ? [] : runs.map((r) => r.id))}
        >
          {chosen.length === runs.length ? 'None' : 'All'}
        </button>
      </legend>
      {[...runs].reverse().map((r) => (
        <label key={r.id} className="flex min-h-6 items-center gap-2 text-small">
          <input
            type="checkbox"
            checked={chosen.includes(r.id)}
            onChange={() => turn(r.id)}
            className="accent-petrol"
          />
          <span className="truncate">{r.name}</span>
        </label>
      ))}
    </fieldset>
  )
}

function Stale({ effects: { results, reports, untouched } }: { effects: Effects }) {
  const named = results.slice(0, 3).map((r) => {
    const value = r.value === null ? '' : ` ${figure(fromSi(r.value, r.unit), r.decimals)} ${r.unit}` // prettier-ignore
    return `${r.title}, ${r.run_name}${value && `, ${r.symbol}${value}`}`
  })
  const more = results.length - named.length
  return (
    <>
      <b className={`font-strong ${results.length ? 'text-marking-ink' : 'text-moss'}`}>
        {results.length
          ? `Becomes stale: ${results.length} ${results.length === 1 ? 'result' : 'results'}`
          : 'No result becomes stale'}
        {reports.length > 0 && `, in ${reports.map((r) => r.number).join(', ')}`}
      </b>
      <span className="block truncate text-soft" title={named.join('; ')}>
        {named.join('; ')}
        {more > 0 && `; and ${more} more`}
        {untouched > 0 && `${named.length ? '; ' : ''}${untouched} untouched`}
      </span>
    </>
  )
}
