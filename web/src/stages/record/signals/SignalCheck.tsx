import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { Link } from 'react-router'

import { useMay } from '../../../api/queries'
import { checkSignals, signalCheckQuery, signalChecksQuery } from '../../../api/signals'
import { PAGE_KEYS } from '../../../frame/pageKeys'
import { useStage } from '../../../frame/stage'
import { useBenchState } from '../../../live/LiveProvider'
import { isBusy } from '../../../live/source'
import { Button } from '../../../ui/Button'
import { Segments } from '../../../ui/Fact'
import { attempt } from '../../../ui/notices'
import { SignalDetail } from './SignalDetail'
import { SignalTable } from './SignalTable'

const when = (at: string) => new Date(at).toLocaleString('sv').slice(0, 16) // as ISO, in the laboratory's time

/** Two seconds of every channel before a test: what is well, what is doubtful, what blocks. */
export function SignalCheck() {
  const { setup } = useStage()
  const busy = isBusy(useBenchState())
  const may = useMay('zero and check channels')
  const rows = useQuery(signalChecksQuery(setup.id)).data
  const [asked, ask] = useState<number | null>(null)
  const [mains, setMains] = useState<'50' | '60'>('50')
  const [looking, setLooking] = useState(false)
  const check = useQuery(signalCheckQuery(asked ?? rows?.[0]?.id)).data
  const [wanted, choose] = useState('')
  const channels = check?.channels ?? []
  const worst = channels.find((c) => c.findings.length) ?? channels[0]
  const found = channels.find((c) => c.key === wanted) ?? worst
  const channel = setup.channels.find((c) => c.key === found?.key)
  const waits = !may
    ? 'Reviewers only look'
    : busy
      ? 'A run is being recorded'
      : looking
        ? 'Looking, 2 s'
        : setup.channels.length
          ? undefined
          : 'Wire a channel first'
  const look = async () => {
    setLooking(true)
    const kept = await attempt(checkSignals(setup.id, Number(mains)))
    setLooking(false)
    if (kept) ask(kept.id)
  }
  useHotkeys('enter', () => !waits && void look(), PAGE_KEYS)
  return (
    <div className="flex h-full flex-col bg-sheet">
      <div className="bar bg-paper">
        <h1 className="text-title!">Signal check</h1>
        {check && <Counts channels={channels} at={check.at} by={check.by} />}
        <span className="ml-auto flex items-center gap-2 text-small text-soft">
          Mains
          <Segments
            label="Mains"
            options={[
              ['50', '50 Hz'],
              ['60', '60 Hz'],
            ]}
            value={mains}
            onChange={setMains}
          />
          {rows && rows.length > 1 && (
            <select
              aria-label="Which check"
              value={check?.id}
              onChange={(e) => ask(Number(e.target.value))}
              className="h-7 rounded border border-rule-strong bg-sheet px-2"
            >
              {rows.map((row) => (
                <option key={row.id} value={row.id}>
                  {when(row.at)}, {row.wrong ? `${row.wrong} to mend` : 'all well'}
                </option>
              ))}
            </select>
          )}
          <Button look={check ? 'plain' : 'go'} shortcut="Enter" waits={waits} onClick={look}>
            {check ? 'Look again' : 'Look at all signals'}
          </Button>
          <Link
            to={`/setups/${setup.id}/record`}
            className="inline-flex h-7 items-center rounded border border-rule-strong bg-sheet px-2.5 text-body font-number text-ink"
          >
            Back to Record
          </Link>
        </span>
      </div>
      {check && found && channel ? (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_420px]">
          <SignalTable setup={setup} channels={channels} chosen={found.key} onChoose={choose} />
          <SignalDetail
            key={found.key + check.id}
            setup={setup}
            check={check}
            found={found}
            channel={channel}
          />
        </div>
      ) : (
        rows?.length === 0 && (
          <p className="m-auto max-w-110 text-center text-soft">
            Two seconds of every channel at rest say what is noisy, hums, clips or stands still,
            before a test is spent on it. Nothing is switched; what is found is kept.
          </p>
        )
      )}
    </div>
  )
}

function Counts(props: {
  channels: readonly { findings: readonly { blocks: boolean }[] }[]
  at: string
  by: string
}) {
  const { channels, at, by } = props
  const blocking = channels.filter((c) => c.findings.some((f) => f.blocks)).length
  const doubtful = channels.filter((c) => c.findings.length > 0).length - blocking
  const well = channels.length - doubtful - blocking
  return (
    <span role="status" className="flex gap-2 text-small">
      <b className="font-strong text-moss">{well} well</b>
      {doubtful > 0 && <b className="font-strong text-marking-ink">{doubtful} doubtful</b>}
      {blocking > 0 && <b className="font-strong text-signal">{blocking} useless</b>}
      <span className="text-soft">
        {when(at)}, {by}
      </span>
    </span>
  )
}
