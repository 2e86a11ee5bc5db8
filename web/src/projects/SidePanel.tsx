import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ProblemError, type Schemas } from '../api/client'
import {
  addSetup,
  beginWithTemplate,
  createBench,
  createProject,
  importSetup,
  removeTemplate,
  templatesQuery,
  type Project,
} from '../api/projects'
import { benchesQuery, benchQuery, kindsOfTestQuery, useMay } from '../api/queries'
import { Button } from '../ui/Button'
import { Section } from '../ui/Fact'
import { Form, SelectField, TextField } from '../ui/Form'
import { attempt } from '../ui/notices'

export type Making = 'project' | 'setup' | null

interface Props {
  making: Making
  project: Project | undefined
  onDone: () => void
}

/** What is being made, or else the benches. */
export function SidePanel({ making, project, onDone }: Props) {
  if (making === 'project') return <NewProject onDone={onDone} />
  if (making === 'setup' && project) return <NewSetup project={project} onDone={onDone} />
  return <Benches />
}

function NewProject({ onDone }: { onDone: () => void }) {
  return (
    <Section title="New project">
      <Form
        label="New project"
        deed="Begin the project"
        onCancel={onDone}
        onSubmit={async ({ name = '', article, customer, standard }) => {
          const more = {
            article: article ?? '',
            customer: customer ?? '',
            standard: standard ?? '',
          }
          await createProject({ name, ...more })
          onDone()
        }}
      >
        <TextField name="name" label="Name" required autoFocus />
        <TextField name="article" label="Article, what is tested" />
        <TextField name="customer" label="Customer" />
        <TextField name="standard" label="Standard, how it is tested" />
      </Form>
    </Section>
  )
}

const FILE = 'file'
const TEMPLATE = 'template:'

/** As a kind of test, with a template, or from a file. */
function NewSetup({ project, onDone }: { project: Project; onDone: () => void }) {
  const kinds = useQuery(kindsOfTestQuery).data ?? []
  const templates = useQuery(templatesQuery).data ?? []
  const benches = useQuery(benchesQuery).data ?? []
  const [begins, setBegins] = useState('tension')
  const [bench, setBench] = useState('')
  const [file, setFile] = useState<File | null>(null)
  if (!benches.length) return <Benches />
  const template = templates.find((t) => `${TEMPLATE}${t.id}` === begins)
  const choose = (next: string) => {
    setBegins(next)
    const made = templates.find((t) => `${TEMPLATE}${t.id}` === next)?.bench_id
    if (made) setBench(String(made))
  }
  const make = (name: string) => {
    const bench_id = Number(bench || benches[0]!.id)
    if (template) return beginWithTemplate(project.id, { template_id: template.id, bench_id, name })
    if (begins !== FILE)
      return addSetup(project.id, { name, kind: begins as Schemas['SetupIn']['kind'], bench_id })
    if (file) return importSetup(project.id, bench_id, name, file)
    throw new ProblemError({ title: 'No file is chosen.', hint: 'Choose one.', status: 422 })
  }
  return (
    <Section title={`New setup of ${project.name}`}>
      <Form
        label="New setup"
        deed="Add the setup"
        onCancel={onDone}
        onSubmit={async ({ name = '' }) => {
          await make(name)
          onDone()
        }}
      >
        <SelectField
          name="kind"
          label="It begins as"
          value={begins}
          onChange={choose}
          options={[
            ...kinds.map((k) => [k.kind, k.name] as const),
            ...templates.map((t) => [`${TEMPLATE}${t.id}`, `Template: ${t.name}`] as const),
            [FILE, 'A file of another setup'],
          ]}
        />
        {begins === FILE && (
          <label className="block text-[12px] text-soft">
            File (JSON)
            <input
              type="file"
              accept=".json,application/json"
              className="mt-0.5 block w-full text-[12px]"
              onChange={(e) => setFile(e.target.files?.[0] ?? null)}
            />
          </label>
        )}
        <TextField name="name" label="Name" required autoFocus />
        <SelectField
          name="bench"
          label="Bench"
          value={bench || String(benches[0]!.id)}
          onChange={setBench}
          options={benches.map((b) => [String(b.id), b.name])}
        />
        {template && (
          <button
            type="button"
            className="self-start text-[12px] text-petrol underline underline-offset-2"
            onClick={() => {
              setBegins('tension')
              void attempt(removeTemplate(template.id))
            }}
          >
            Take the template {template.name} away
          </button>
        )}
      </Form>
    </Section>
  )
}

/** The benches, each with its devices; an engineer sets up more. */
function Benches() {
  const benches = useQuery(benchesQuery).data
  const may = useMay('set up benches')
  const [adding, setAdding] = useState(false)
  return (
    <>
      {benches?.map((b) => (
        <BenchDevices key={b.id} bench={b.id} name={b.name} />
      ))}
      {may && (adding || benches?.length === 0) && (
        <Section title="New bench">
          <Form
            label="New bench"
            deed="Set up the bench"
            onCancel={benches?.length ? () => setAdding(false) : undefined}
            onSubmit={async ({ name = '' }) => {
              await createBench(name)
              setAdding(false)
            }}
          >
            <TextField name="name" label="Name, by which people know its place" required />
          </Form>
        </Section>
      )}
      {may && !adding && !!benches?.length && (
        <div className="px-4 py-3">
          <Button size={24} onClick={() => setAdding(true)}>
            Set up another bench
          </Button>
        </div>
      )}
      {!may && benches?.length === 0 && (
        <p className="p-4 text-soft">There is no bench yet. An engineer sets one up.</p>
      )}
    </>
  )
}

const LINKS: Record<string, string> = {
  linked: 'var(--moss)',
  listening: 'var(--marking)',
  lost: 'var(--signal)',
}

function BenchDevices({ bench, name }: { bench: number; name: string }) {
  const found = useQuery({ ...benchQuery(bench), refetchInterval: 5000 }).data
  return (
    <Section title={name}>
      <p className="pb-1 text-[12px] text-soft">
        {found?.yoke_holder ? `${found.yoke_holder} holds the yoke` : 'the yoke is free'}
      </p>
      <ul>
        {found?.devices.map((d) => (
          <li
            key={d.id}
            className="flex min-h-7 items-center gap-2 border-t border-rule text-[12px]"
            title={d.link_note}
          >
            <span
              aria-hidden
              className="size-2 flex-none rounded-full"
              style={{ background: LINKS[d.link] ?? 'var(--rule-strong)' }}
            />
            <b className="font-[620]">{d.label}</b>
            <span className="truncate text-soft">
              {d.driver}, {d.link === 'unknown' ? 'not seen yet' : d.link}
            </span>
          </li>
        ))}
      </ul>
      {found?.devices.length === 0 && (
        <p className="text-[12px] text-soft">
          No device yet: they are found and added in Wire, under Devices.
        </p>
      )}
    </Section>
  )
}
