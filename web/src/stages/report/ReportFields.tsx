import { client, got, type Report, type Schemas } from '../../api/client'
import { queryClient, useMay, useRuns } from '../../api/queries'
import { useStage } from '../../frame/stage'
import { EditableText } from '../../ui/Editable'
import { Fact, Section } from '../../ui/Fact'
import { Blocks } from './Blocks'
import { clock, day } from '../../ui/format'

export function ReportFields({ report }: { report: Report }) {
  const { setup } = useStage()
  const may = useMay('write reports')
  const run = useRuns(setup.id).rows.find((r) => r.id === report.run)
  const change = async (body: Schemas['ReportChange']) => {
    const path = { params: { path: { report_id: report.id } } }
    await got(client.PATCH('/api/reports/{report_id}', { ...path, body }))
    await queryClient.invalidateQueries({ queryKey: ['reports'] })
  }
  return (
    <section className="col overflow-y-auto" aria-label="Fields">
      <div className="bar">
        <h2>Fields</h2>
        <span className="ml-auto text-small text-soft">saved as you go</span>
      </div>
      <Section title="Report">
        <EditableText
          label="Title"
          value={report.title}
          disabled={!may}
          onSave={(title) => change({ title })}
        />
        <EditableText
          label="Number"
          value={report.number}
          disabled={!may}
          onSave={(number) => change({ number })}
        />
        <EditableText
          label="Revision"
          value={report.revision}
          disabled={!may}
          onSave={(revision) => change({ revision })}
        />
        <EditableText
          label="Remarks"
          value={report.remarks}
          disabled={!may}
          onSave={(remarks) => change({ remarks })}
        />
        <Fact name="Made">
          {report.pdf_at ? (
            <span className="figure">
              {day(report.pdf_at)} {clock(report.pdf_at)}
            </span>
          ) : (
            'not yet'
          )}
        </Fact>
      </Section>
      <Section title="Blocks, in order">
        <Blocks report={report} disabled={!may} onSave={(blocks) => change({ blocks })} />
      </Section>
      {run && (
        <Section title="Where its numbers come from">
          <Steps
            steps={[
              ['Results', 'computed from the raw samples'],
              [run.name, run.ended_because],
              ...run.channels.map(
                (c) =>
                  [
                    `${c.name}, input ${c.device_label}.${c.input_number}`,
                    `${c.sensor_name}, ${c.sensor_serial}`,
                  ] as const,
              ),
              ['Fingerprint', run.seal.slice(0, 24)],
            ]}
          />
        </Section>
      )}
    </section>
  )
}

/** A chain from a number back to where it was measured. */
function Steps({ steps }: { steps: readonly (readonly [string, string])[] }) {
  return (
    <ol className="ml-1.25 border-l border-rule-strong">
      {steps.map(([name, words]) => (
        <li key={name} className="relative pb-2 pl-4 text-small leading-4 last:pb-0">
          <span className="absolute top-0.75 -left-1.25 size-2.25 rounded-full border-[1.5px] border-ink bg-sheet" />
          <b className="block font-strong">{name}</b>
          <span className="block text-soft">{words}</span>
        </li>
      ))}
    </ol>
  )
}
