import { useQuery } from '@tanstack/react-query'

import { haveSeen, sinceQuery, type Happening, type RunDrift } from '../api/since'
import { Button } from '../ui/Button'
import { Fact } from '../ui/Fact'
import { day, figure } from '../ui/format'
import { Icon, type IconName } from '../ui/Icon'
import { attempt } from '../ui/notices'

type Sort = Happening['sort']

/** The sign of each sort, its colour, and what several of it are called. */
const SIGNS: Record<Sort, [sign: IconName, tone: string, word: string]> = {
  begins: ['open', 'text-petrol', 'begun'],
  ends: ['tick', 'text-moss', 'kept'],
  interrupted: ['cross', 'text-signal', 'interrupted'],
  guard: ['warn', 'text-signal', 'trips'],
  gap: ['cross', 'text-marking-ink', 'gaps'],
  clock: ['open', 'text-marking-ink', 'clocks put'],
  restart: ['open', 'text-marking-ink', 'restarts'],
  trigger: ['flag', 'text-petrol', 'triggers'],
  pause: ['open', 'text-soft', 'pauses'],
  programme: ['open', 'text-soft', 'of programmes'],
  marker: ['flag', 'text-marking-ink', 'markers'],
}
const TOLD: readonly Sort[] = ['guard', 'gap', 'restart', 'interrupted', 'ends']
const FEW = 40

/** What happened at the benches since one last said that one has seen it, with times. */
export function Since() {
  const found = useQuery(sinceQuery).data
  if (!found || found.happenings.length === 0) return null
  const { happenings, counts, since, drifts } = found
  const last = happenings[happenings.length - 1]!
  const shown = happenings.slice(-FEW).reverse() // the newest first
  return (
    <section aria-label="Since you last looked" className="border-b border-rule-strong bg-sheet">
      <h2 className="px-4 pt-3 text-large leading-5">Since you last looked</h2>
      <div className="flex items-center px-4 pt-1 text-small text-soft">
        {moment(since)}
        <span className="ml-auto">
          <Button size={24} onClick={() => void attempt(haveSeen(last.at))}>
            I have seen it
          </Button>
        </span>
      </div>
      <dl className="flex flex-wrap gap-x-5 px-4 py-2">
        {TOLD.filter((sort) => counts[sort]).map((sort) => (
          <div key={sort}>
            <dt className="text-small text-soft">{SIGNS[sort][2]}</dt>
            <dd className="figure text-large leading-6">{counts[sort]}</dd>
          </div>
        ))}
      </dl>
      <ol className="max-h-90 overflow-y-auto border-t border-rule py-1">
        {shown.map((one, i) => (
          <Line key={i} one={one} before={shown[i - 1]} />
        ))}
      </ol>
      {drifts.map((run) => (
        <Drifts key={run.run} run={run} />
      ))}
    </section>
  )
}

/** How far a run that keeps cycles has gone, and what its highest were and are. */
function Drifts({ run }: { run: RunDrift }) {
  return (
    <div className="border-t border-rule px-4 py-2 text-small">
      <b className="font-strong">{run.run_name}</b>
      <span className="block text-soft">
        <span className="figure text-ink">{figure(run.cycles, 0)}</span> cycles since,{' '}
        <span className="figure text-ink">{figure(run.cycles_in_all, 0)}</span> in all; the highest
        of each, start to now:
      </span>
      {run.drifts.map((d) => (
        <Fact key={d.channel} name={d.channel}>
          <span className="figure">
            {figure(d.begin, d.decimals)} to {figure(d.now, d.decimals)}
          </span>{' '}
          {d.unit}
        </Fact>
      ))}
    </div>
  )
}

function Line({ one, before }: { one: Happening; before?: Happening }) {
  const [sign, tone] = SIGNS[one.sort]
  const newDay = !before || day(before.at) !== day(one.at)
  return (
    <>
      {newDay && <li className="px-4 pt-1.5 text-small text-soft">{day(one.at)}</li>}
      <li className="grid grid-cols-[44px_16px_minmax(0,1fr)] items-start gap-x-2 px-4 py-1 text-small leading-4">
        <time dateTime={one.at} className="figure text-soft">
          {clock(one.at)}
        </time>
        <span className={tone} aria-hidden>
          <Icon name={sign} size={14} />
        </span>
        <span>
          <b className="font-strong">{headline(one)}</b>
          <span className="block text-soft">{one.words || `${one.project}, ${one.setup}`}</span>
        </span>
      </li>
    </>
  )
}

const HEADLINES: Partial<Record<Sort, string>> = {
  begins: 'begins',
  ends: 'is kept',
  interrupted: 'was interrupted',
  guard: 'trips',
  gap: 'has a gap',
  restart: 'goes on',
}

const headline = (one: Happening): string =>
  `${one.run_name} ${HEADLINES[one.sort] ?? ''}`.trimEnd()

const clock = (at: string): string =>
  new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })

const moment = (at: string): string => `${day(at)}, ${clock(at)}`
