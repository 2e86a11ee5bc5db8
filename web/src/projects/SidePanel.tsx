import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ProblemError, type Schemas } from '../api/client'
import {
  addSetup,
  beginWithTemplate,
  createProject,
  importSetup,
  removeTemplate,
  templatesQuery,
  type Project,
} from '../api/projects'
import { benchesQuery, setupPresetsQuery } from '../api/queries'
import { Section } from '../ui/Fact'
import { Form, SelectField, TextField } from '../ui/Form'
import { attempt } from '../ui/notices'
import { Benches } from './Benches'
import { Since } from './Since'

export type Making = 'project' | 'setup' | null

interface Props {
  making: Making
  project: Project | undefined
  onDone: () => void
}

/** What is being made, or else what happened meanwhile, and the benches. */
export function SidePanel({ making, project, onDone }: Props) {
  if (making === 'project') return <NewProject onDone={onDone} />
  if (making === 'setup' && project) return <NewSetup project={project} onDone={onDone} />
  return (
    <>
      <Since />
      <Benches />
    </>
  )
}

function NewProject({ onDone }: { onDone: () => void }) {
  return (
    <Section title="New project">
      <Form
        label="New project"
        action="Begin the project"
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
  const kinds = useQuery(setupPresetsQuery).data ?? []
  const templates = useQuery(templatesQuery).data ?? []
  const benches = useQuery(benchesQuery({})).data?.items ?? []
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
        action="Add the setup"
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
          <label className="block text-small text-soft">
            File (JSON)
            <input
              type="file"
              accept=".json,application/json"
              className="mt-0.5 block w-full text-small"
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
            className="self-start text-small text-petrol underline underline-offset-2"
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
