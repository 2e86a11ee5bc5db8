import { useState } from 'react'
import { useSearchParams } from 'react-router'

import { client, got, ProblemError, type Report as ReportRow } from '../../api/client'
import { queryClient, useMay, useReports, useRuns } from '../../api/queries'
import { useStage } from '../../frame/stage'
import { Button } from '../../ui/Button'
import { Older } from '../../ui/Older'
import { attempt, complain } from '../../ui/notices'
import { ReportFields } from './ReportFields'
import { row } from '../../ui/row'

const POLL = 250 // ms
const PATIENCE = 120_000 // ms

/** Have the worker make the PDF and wait for it. */
async function makePdf(report: ReportRow): Promise<void> {
  const path = { params: { path: { report_id: report.id } } }
  let task = await got(client.POST('/api/reports/{report_id}/pdf', path))
  const deadline = performance.now() + PATIENCE
  while (task.state !== 'done') {
    if (task.state === 'failed') break // the report says why
    if (performance.now() > deadline)
      throw new ProblemError({
        title: 'The PDF is not made yet.',
        status: 503,
        hint: 'The worker has other work before it: come back later.',
      })
    await new Promise((resolve) => setTimeout(resolve, POLL))
    task = await got(client.GET('/api/tasks/{task_id}', { params: { path: { task_id: task.id } } }))
  }
  await queryClient.invalidateQueries({ queryKey: ['reports'] })
}

export function Report() {
  const { setup } = useStage()
  const [params, setParams] = useSearchParams()
  const reports = useReports(setup.id)
  const list = reports.rows
  const report = list.find((r) => r.id === Number(params.get('report'))) ?? list.at(-1)
  if (reports.isLoading) return null
  return (
    <div className="grid h-full grid-cols-[240px_1fr_288px]">
      <section className="col" aria-label="Reports">
        <div className="bar">{report ? <h2>Reports</h2> : <h1>Reports</h1>}</div>
        <ul className="flex-1 overflow-auto">
          <Older list={reports} what="reports" />
          {list.map((r) => (
            <li key={r.id}>
              <button
                type="button"
                aria-pressed={r.id === report?.id}
                onClick={() => setParams({ report: String(r.id) })}
                className={row({
                  chosen: r.id === report?.id,
                  className:
                    'flex w-full items-center gap-2 border-b border-rule px-4 py-2 text-left leading-4.25',
                })}
              >
                <span className="min-w-0 flex-1">
                  <b className="block truncate font-strong">{r.title}</b>
                  <span className="block text-small text-soft">
                    {r.number}, revision {r.revision}
                  </span>
                </span>
                {r.stale && (
                  <span className="rounded bg-marking px-1.5 text-note font-strong text-on-marking">
                    {r.pages ? 'stale' : 'no PDF'}
                  </span>
                )}
              </button>
            </li>
          ))}
        </ul>
        <NewReport
          setupId={setup.id}
          taken={list.map((r) => r.run)}
          onMade={(id) => setParams({ report: String(id) })}
        />
      </section>
      {report ? (
        <Pages key={report.id} report={report} />
      ) : (
        <section className="col col-span-2">
          <p className="p-8">
            No report yet: choose a run at the left, or put one here from Derive.
          </p>
        </section>
      )}
    </div>
  )
}

function NewReport(props: { setupId: number; taken: number[]; onMade: (id: number) => void }) {
  const may = useMay('write reports')
  const runs = useRuns(props.setupId).rows
  const open = runs.filter((r) => r.state === 'kept' && !props.taken.includes(r.id))
  const make = async (runId: number) => {
    const path = { params: { path: { run_id: runId } } }
    const made = await attempt(got(client.POST('/api/runs/{run_id}/report', path)))
    await queryClient.invalidateQueries({ queryKey: ['reports'] })
    if (made) props.onMade(made.id)
  }
  if (!may || open.length === 0) return null
  return (
    <div className="flex flex-col gap-2 border-t border-rule p-4">
      <h3>Runs without a report</h3>
      {open.slice(-4).map((run) => (
        <Button key={run.id} size={28} onClick={() => void make(run.id)}>
          Report on {run.name}
        </Button>
      ))}
    </div>
  )
}

function Pages({ report }: { report: ReportRow }) {
  const may = useMay('write reports')
  const [busy, setBusy] = useState(false)
  const make = async () => {
    setBusy(true)
    try {
      await makePdf(report)
    } catch (error) {
      complain(error)
    } finally {
      setBusy(false)
    }
  }
  return (
    <>
      <section className="col bg-well!" aria-label="Pages">
        <div className="bar bg-sheet">
          <h1>{report.title}</h1>
          <span className="text-soft">
            {report.pages ? `${report.pages} pages, A4` : busy ? 'being made' : 'not made yet'}
          </span>
          <span className="ml-auto flex gap-2">
            {report.pages > 0 && (
              <a
                href={`/api/reports/${report.id}/file.pdf`}
                className={`inline-flex h-7 items-center rounded border px-2.5 font-strong ${
                  report.stale
                    ? 'border-rule-strong bg-sheet'
                    : 'border-petrol bg-petrol text-on-petrol'
                }`}
              >
                Save the PDF
              </a>
            )}
            {report.stale && (
              <Button
                look="go"
                waits={busy ? 'The PDF is being made' : may ? undefined : 'Reviewers only read'}
                onClick={() => void make()}
              >
                {report.pages ? 'Renew the PDF' : 'Make the PDF'}
              </Button>
            )}
          </span>
        </div>
        {report.problem && !busy && (
          <p
            role="alert"
            className="flex-none border-b border-signal bg-signal-wash px-4 py-2 text-signal"
          >
            The PDF was not made. {report.problem}
          </p>
        )}
        {report.stale && report.pages > 0 && (
          <p className="flex-none border-b border-marking bg-marking-wash px-4 py-2 text-marking-ink">
            These pages are stale: the run, its recipe or a field changed after they were made.
          </p>
        )}
        <div
          className="min-h-0 flex-1 overflow-auto p-4"
          tabIndex={0}
          role="group"
          aria-label="Pages"
        >
          {Array.from({ length: report.pages }, (_, i) => (
            <img
              key={i}
              src={`/api/reports/${report.id}/pages/${i + 1}.png?made=${report.pdf_at}`}
              alt={`Page ${i + 1} of ${report.title}; the text is in the PDF`}
              className={`mx-auto mb-4 w-full max-w-155 border border-rule-strong bg-white ${report.stale ? 'opacity-70' : ''}`}
            />
          ))}
          {report.pages === 0 && (
            <p className="p-8 text-center text-soft">
              {busy
                ? 'The pages are being drawn.'
                : 'No pages yet: fill in the fields, then make the PDF.'}
            </p>
          )}
        </div>
      </section>
      <ReportFields report={report} />
    </>
  )
}
