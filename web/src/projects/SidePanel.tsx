import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Schemas } from '../api/client'
import {
  addSetup,
  createBench,
  createProject,
  putDevice,
  removeDevice,
  type Project,
} from '../api/projects'
import { benchesQuery, benchQuery, driversQuery, kindsOfTestQuery, useMay } from '../api/queries'
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

function NewSetup({ project, onDone }: { project: Project; onDone: () => void }) {
  const kinds = useQuery(kindsOfTestQuery).data ?? []
  const benches = useQuery(benchesQuery).data ?? []
  if (!benches.length) return <Benches />
  return (
    <Section title={`New setup of ${project.name}`}>
      <Form
        label="New setup"
        deed="Add the setup"
        onCancel={onDone}
        onSubmit={async ({ name = '', kind, bench }) => {
          await addSetup(project.id, {
            name,
            kind: kind as Schemas['SetupIn']['kind'],
            bench_id: Number(bench),
          })
          onDone()
        }}
      >
        <SelectField
          name="kind"
          label="Kind of test"
          options={kinds.map((k) => [k.kind, k.name])}
        />
        <TextField name="name" label="Name" required autoFocus />
        <SelectField
          name="bench"
          label="Bench"
          options={benches.map((b) => [String(b.id), b.name])}
        />
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
  const may = useMay('set up benches')
  const [adding, setAdding] = useState(false)
  const empty = found?.devices.length === 0
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
            {may && adding && (
              <button
                type="button"
                className="ml-auto flex-none text-petrol underline"
                onClick={() => void attempt(removeDevice(bench, d.id))}
              >
                take off
              </button>
            )}
          </li>
        ))}
      </ul>
      {may && (adding || empty) ? (
        <AddDevice bench={bench} onDone={() => setAdding(false)} />
      ) : (
        may && (
          <button
            type="button"
            className="mt-1 text-[12px] text-petrol underline underline-offset-2"
            onClick={() => setAdding(true)}
          >
            Change its devices
          </button>
        )
      )}
    </Section>
  )
}

function AddDevice({ bench, onDone }: { bench: number; onDone: () => void }) {
  const drivers = useQuery(driversQuery).data ?? []
  return (
    <div className="mt-2 border-t border-rule pt-2">
      <Form
        label="Add a device"
        deed="Add or move it"
        onCancel={onDone}
        onSubmit={({ label = '', driver = '', host = '', port }) =>
          putDevice(bench, { label, driver, host, port: Number(port) })
        }
      >
        <div className="grid grid-cols-[80px_1fr] gap-2">
          <TextField name="label" label="Label" required />
          <SelectField name="driver" label="What it is" options={drivers.map((d) => [d, d])} />
        </div>
        <div className="grid grid-cols-[1fr_80px] gap-2">
          <TextField name="host" label="Address" value="127.0.0.1" required />
          <TextField name="port" label="Port" required />
        </div>
      </Form>
    </div>
  )
}
