import { useState } from 'react'

import type { Bench, Channel, Setup } from '../../api/client'
import { checkWiring } from '../../api/actions'
import { useMay } from '../../api/queries'
import { yokeFirst } from '../../frame/yokeFirst'
import { Button } from '../../ui/Button'
import { clock } from '../../ui/format'
import { Icon } from '../../ui/Icon'
import type { Check } from '../../kinds/inputs/drawing/marks'

/** What the newest check of a channel found, figure by figure, and the action that checks again. */
export function CheckPanel(props: { setup: Setup; bench: Bench; channel: Channel }) {
  const { setup, bench, channel } = props
  const [busy, setBusy] = useState(false)
  const yoke = yokeFirst(bench, useMay('zero and check channels'))('check the wiring')
  const check = channel.check
  const run = async (channels: number[]) => {
    setBusy(true)
    await checkWiring(setup.id, channels)
    setBusy(false)
  }
  const all = setup.channels.map((c) => c.id)
  return (
    <div className="flex-none border-t border-rule">
      {check && <Said check={check} />}
      {check && <Findings check={check} />}
      <div className="flex items-center gap-3 border-t border-rule bg-paper px-3.5 py-2">
        <Button
          look="go"
          size={36}
          shortcut="C"
          disabled={busy}
          {...yoke}
          onClick={() => void run([channel.id])}
        >
          {busy ? 'Checking' : `Check ${channel.name}${check ? ' again' : ''}`}
        </Button>
        {!yoke.waits && all.length > 1 && (
          <Button size={36} disabled={busy} onClick={() => void run(all)}>
            Check {all.length} inputs
          </Button>
        )}
        <span className="ml-auto text-soft">
          {check ? (
            <>
              Checked <span className="figure text-ink">{clock(check.at)}</span>
            </>
          ) : (
            'not checked yet'
          )}
        </span>
      </div>
    </div>
  )
}

/** The verdict as a sentence; in red only while it holds and something is wrong. */
function Said({ check }: { check: Check }) {
  if (check.old)
    return (
      <p className="px-4 py-2 text-marking-ink">
        <b className="font-strong">The wiring was changed since it was checked.</b> Check it again.
      </p>
    )
  if (check.passed)
    return (
      <p className="flex items-center gap-2 px-4 py-2 text-moss">
        <Icon name="tick" />
        <b className="font-name">All well</b>
        <span className="text-soft">
          Which way it reads is not tested by this: press the part and look at the reading.
        </span>
      </p>
    )
  return (
    <div role="alert" className="bg-signal px-4 py-2 text-on-signal">
      <p className="text-large leading-5 font-name">
        {[check.title, ...check.others.map((o) => small(o.title))].join(', or ')}
      </p>
      <p className="leading-4.5">
        {check.parted_by ? `They read alike. ${check.parted_by}` : check.hint}
      </p>
    </div>
  )
}

const small = (title: string) => title.charAt(0).toLowerCase() + title.slice(1)

const SIGNS = { true: 'tick', false: 'cross' } as const
const TONES = { true: 'text-moss', false: 'text-signal', null: 'text-soft' } as const

function Findings({ check }: { check: Check }) {
  return (
    <ul
      aria-label="Figures of the check"
      className={`grid grid-cols-4 gap-px border-t border-rule bg-rule ${check.old ? 'opacity-60' : ''}`}
    >
      {check.findings.map((f) => (
        <li
          key={f.name}
          className={`flex gap-2 px-3 py-1.5 leading-4 ${f.passed === false ? 'bg-signal-wash' : 'bg-sheet'}`}
        >
          <span className={`w-4 flex-none ${TONES[`${f.passed}`]}`}>
            {f.passed === null ? <Waiting /> : <Icon name={SIGNS[`${f.passed}`]} size={14} />}
          </span>
          <span className="min-w-0 text-small">
            <span
              className={`block truncate font-number ${f.passed === false ? 'text-signal' : ''}`}
              title={f.name}
            >
              {f.name}
            </span>
            <span className={`block ${f.passed === false ? 'text-signal' : 'text-soft'}`}>
              <span className={/^[−\d]/.test(f.value) ? 'text-ink' : ''}>{f.value}</span>
              {f.due && `, ${f.due}`}
            </span>
          </span>
        </li>
      ))}
      {Array.from({ length: (4 - (check.findings.length % 4)) % 4 }, (_, i) => (
        <li key={i} className="bg-sheet" aria-hidden />
      ))}
    </ul>
  )
}

const Waiting = () => (
  <svg width="14" height="14" viewBox="0 0 16 16" aria-hidden>
    <circle cx="8" cy="8" r="5" fill="none" stroke="currentColor" strokeWidth="1.4" />
  </svg>
)
