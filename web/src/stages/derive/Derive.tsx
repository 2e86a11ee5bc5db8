import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'

import { client, got, ProblemError, type Run } from '../../api/client'
import { curveQuery, runsQuery, tensionQuery, useMay } from '../../api/queries'
import { useStage } from '../../frame/SetupFrame'
import { Button } from '../../ui/Button'
import { Segments } from '../../ui/Fact'
import { attempt } from '../../ui/notices'
import { Construction } from './Construction'
import { OverTime } from './OverTime'
import { RecipePanel } from './RecipePanel'
import { ResultTable } from './ResultTable'
import { WholeCurve } from './WholeCurve'

type Shown = 'stress' | 'time'
const CLOSED = ['kept', 'interrupted']

export function Derive() {
  const { setup } = useStage()
  const [params, setParams] = useSearchParams()
  const [shown, setShown] = useState<Shown>('stress')
  const runs = (useQuery(runsQuery(setup.id)).data ?? []).filter((r) => CLOSED.includes(r.state))
  const run = runs.find((r) => r.id === Number(params.get('run'))) ?? runs.at(-1)
  if (!run)
    return (
      <div className="col h-full">
        <p className="p-8">No run is stored yet: go to Record and pull a coupon.</p>
      </div>
    )
  return (
    <div className="grid h-full grid-cols-[196px_1fr_268px] grid-rows-[1fr_auto]">
      <RunList runs={runs} chosen={run.id} onChoose={(id) => setParams({ run: String(id) })} />
      <section className="col" aria-label="Curves">
        <div className="bar">
          <h1>{shown === 'stress' ? 'Stress-strain' : 'Over time'}</h1>
          <span className="truncate text-soft">{run.name}</span>
          <span className="ml-auto">
            <Segments
              label="Shown"
              options={[
                ['stress', 'Stress-strain'],
                ['time', 'Over time'],
              ]}
              value={shown}
              onChange={setShown}
            />
          </span>
        </div>
        {shown === 'stress' ? <StressStrain run={run} /> : <OverTime key={run.id} run={run} />}
      </section>
      <RecipePanel key={run.id} run={run} />
      <section
        className="col col-span-2 col-start-2 border-t border-rule-strong"
        aria-label="Results"
      >
        <ResultTable runs={runs} chosen={run.id} />
        <div className="flex justify-end gap-2 px-3.5 py-2">
          <PutIntoReport run={run} setupId={setup.id} />
        </div>
      </section>
    </div>
  )
}

function RunList(props: { runs: Run[]; chosen: number; onChoose: (id: number) => void }) {
  return (
    <section className="col row-span-2" aria-label="Runs">
      <div className="bar">
        <h2>Runs</h2>
      </div>
      <ul className="flex-1 overflow-auto">
        {[...props.runs].reverse().map((run) => (
          <li key={run.id}>
            <button
              type="button"
              aria-pressed={run.id === props.chosen}
              onClick={() => props.onChoose(run.id)}
              className={`block w-full border-b border-rule px-4 py-2 text-left leading-[17px] ${
                run.id === props.chosen
                  ? 'bg-marking-wash shadow-[inset_3px_0_0_var(--marking)]'
                  : 'hover:bg-paper'
              }`}
            >
              <b className="block truncate font-[620]">{run.name}</b>
              <span className="block truncate text-[12px] text-soft">
                {run.state}
                {run.streams.some((s) => s.gaps.length) ? ', with gaps' : ''}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <div className="border-t border-rule p-3.5 text-[12px] leading-4 text-soft">
        <h3 className="pb-0.5 text-ink">Handles</h3>
        Drag the round handles: the fit range, the foot of the offset line. Arrow keys move them by
        1 MPa or 0.001 %.
      </div>
    </section>
  )
}

function StressStrain({ run }: { run: Run }) {
  const tension = useQuery(tensionQuery(run.id))
  const computedAt = tension.data?.computed_at ?? null
  const curve = useQuery({
    ...curveQuery(run.id, computedAt),
    enabled: !!tension.data?.result,
  })
  const error = tension.error ?? curve.error
  if (error) return <Trouble {...ProblemError.of(error)} />
  if (tension.data?.problem && !tension.data.stale)
    return <Trouble title={tension.data.problem.title} hint={tension.data.problem.hint} />
  const { recipe, result, stale } = tension.data ?? {}
  if (!result || !recipe || !curve.data)
    return <p className="p-4 text-soft">Computing from the raw samples.</p>
  const shown = { run: run.id, recipe, result, curve: curve.data, name: run.specimen }
  return (
    <>
      <div className="grid min-h-0 flex-1 grid-cols-[2fr_3fr]">
        <div className="flex min-h-0 border-r border-rule">
          <WholeCurve {...shown} />
        </div>
        <Construction {...shown} />
      </div>
      {[
        ...(stale ? ['The worker is computing this anew; these are the last results.'] : []),
        ...result.notes,
      ].map((note) => (
        <p key={note} className="border-t border-rule bg-marking-wash px-4 py-1.5 text-marking-ink">
          {note}
        </p>
      ))}
    </>
  )
}

function Trouble({ title, hint }: { title: string; hint?: string }) {
  return (
    <p role="alert" className="m-4 max-w-lg rounded border-l-4 border-signal bg-signal-wash p-4">
      <b className="font-[620]">{title}</b> {hint}
    </p>
  )
}

function PutIntoReport({ run, setupId }: { run: Run; setupId: number }) {
  const go = useNavigate()
  const may = useMay('write reports')
  const put = async () => {
    const path = { params: { path: { run_id: run.id } } }
    const report = await attempt(got(client.POST('/api/runs/{run_id}/report', path)))
    if (report) void go(`/setups/${setupId}/report?report=${report.id}`)
  }
  return (
    <Button
      look="go"
      size={28}
      waits={may ? undefined : 'Reviewers only read'}
      onClick={() => void put()}
    >
      Put {run.specimen} into a report
    </Button>
  )
}
