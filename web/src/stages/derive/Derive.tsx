import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'

import { client, got, type Derivation, type Run } from '../../api/client'
import { useMay, useRuns } from '../../api/queries'
import type { Correction } from '../../api/readings'
import { derivationsQuery } from '../../api/results'
import { useStage } from '../../frame/stage'
import { Button } from '../../ui/Button'
import { Segments } from '../../ui/Fact'
import { attempt } from '../../ui/notices'
import { DeriveMenu } from './DeriveMenu'
import { resultKind } from '../../kinds/results'
import { CorrectionList } from './corrections/CorrectionList'
import { CorrectionSheet } from './corrections/CorrectionSheet'
import { OverTime } from './OverTime'
import { RecipePanel } from './RecipePanel'
import { ResultFigure } from './ResultFigure'
import { ResultTable } from './ResultTable'
import { RunList } from './RunList'
import { useReadings } from './useReadings'

const CLOSED = ['kept', 'interrupted']
const TIME = 'time'

/** A correction that is being set, of a hint with what it proposes. */
interface Correcting {
  proposed?: Correction
  reason?: string
}

/** The runs at the left, the chosen result's figure in the middle, its recipe at the right. */
export function Derive() {
  const { setup } = useStage()
  const [params, setParams] = useSearchParams()
  const [shown, setShown] = useState<string | null>(null)
  const list = useRuns(setup.id)
  const runs = list.rows.filter((r) => CLOSED.includes(r.state))
  const run = runs.find((r) => r.id === Number(params.get('run'))) ?? runs.at(-1)
  const found = useQuery({ ...derivationsQuery(run?.id ?? 0), enabled: !!run }).data
  const readings = useReadings(run?.id)
  const [correcting, setCorrecting] = useState<Correcting | null>(null)
  if (!run)
    return (
      <div className="col h-full">
        <p className="p-8">
          No run is stored yet: go to Record and make one, or{' '}
          <Link to="import" relative="path" className="text-petrol underline">
            import a file
          </Link>
          .
        </p>
      </div>
    )
  const chosen =
    shown === TIME ? undefined : (found?.find((d) => String(d.recipe.id) === shown) ?? found?.[0])
  return (
    <div className="grid h-full grid-cols-[232px_1fr_268px] grid-rows-[1fr_auto]">
      <RunList
        runs={runs}
        list={list}
        chosen={run.id}
        onChoose={(id) => {
          setParams({ run: String(id) })
          setCorrecting(null)
        }}
      >
        <CorrectionList
          setupId={setup.id}
          run={run}
          onCorrect={(proposed, reason) => setCorrecting({ proposed, reason })}
        />
      </RunList>
      <section className={`col ${correcting ? 'col-span-2' : ''}`} aria-label="Curves">
        <div className="bar">
          <h1>{correcting ? 'Correct' : chosen ? titleOf(chosen, run) : 'Over time'}</h1>
          <span className="truncate text-soft">{run.name}</span>
          <span className="ml-auto flex items-center gap-2">
            <Link
              to={`curves?run=${run.id}`}
              relative="path"
              className="inline-flex h-7 items-center rounded border border-rule-strong bg-sheet px-2.5 font-number"
            >
              Over each other
            </Link>
            <DeriveMenu setupId={setup.id} onAdded={(id) => setShown(String(id))} />
            <ShownChoice
              options={[
                ...(found ?? []).map((d) => [String(d.recipe.id), titleOf(d, run)] as const),
                [TIME, 'Over time'] as const,
              ]}
              value={chosen ? String(chosen.recipe.id) : TIME}
              onChange={(to) => {
                setShown(to)
                setCorrecting(null)
              }}
            />
          </span>
        </div>
        {correcting && readings ? (
          <CorrectionSheet
            key={`${run.id}-${JSON.stringify(correcting)}`}
            setup={setup}
            run={run}
            runs={runs}
            channels={readings.channels}
            {...correcting}
            onDone={() => setCorrecting(null)}
          />
        ) : chosen ? (
          <ResultFigure key={`${run.id}-${chosen.recipe.id}`} run={run} derivation={chosen} />
        ) : (
          <OverTime key={run.id} setup={setup} run={run} runs={runs} readings={readings} />
        )}
      </section>
      {!correcting && <RecipePanel key={run.id} run={run} derivation={chosen} />}
      <section
        className="col col-span-2 col-start-2 border-t border-rule-strong"
        aria-label="Results"
      >
        {chosen && !correcting && (
          <ResultTable runs={runs} chosen={run.id} recipe={chosen.recipe.id} setupId={setup.id} />
        )}
        <div className="flex justify-end gap-2 px-3.5 py-2">
          {!correcting && <PutIntoReport run={run} setupId={setup.id} />}
        </div>
      </section>
    </div>
  )
}

function titleOf({ recipe }: Derivation, run: Run): string {
  return resultKind(recipe.parameters.kind).title(recipe.parameters, run)
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

const BESIDE = 4 // that have room beside each other

/** What is shown: beside each other while there is room, else as a list. */
function ShownChoice(props: {
  options: readonly (readonly [string, string])[]
  value: string
  onChange: (to: string) => void
}) {
  const { options, value, onChange } = props
  if (options.length <= BESIDE) return <Segments label="Shown" {...props} />
  return (
    <select
      aria-label="Shown"
      value={value}
      onChange={(e) => onChange(e.target.value)}
      className="h-7 max-w-60 rounded border border-rule-strong bg-sheet px-2 font-strong"
    >
      {options.map(([name, words]) => (
        <option key={name} value={name}>
          {words}
        </option>
      ))}
    </select>
  )
}
