import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Schemas } from '../api/client'
import { archiveBench, createBench, removeBench } from '../api/projects'
import { benchesQuery, benchQuery, useMay } from '../api/queries'
import { Button } from '../ui/Button'
import { ConfirmedButton } from '../ui/ConfirmedButton'
import { Section } from '../ui/Fact'
import { Form, TextField } from '../ui/Form'
import { attempt } from '../ui/notices'
import { SearchField } from '../ui/SearchField'

type BenchLine = Schemas['BenchLine']

const FEW = 3 // that are shown with their devices, and no search

/** The benches, each with its devices; an engineer sets up more and puts them away. */
export function Benches() {
  const [archived, setArchived] = useState(false)
  const [search, setSearch] = useState('')
  const page = useQuery(benchesQuery({ archived, search })).data
  const may = useMay('set up benches')
  const none = page?.count === 0 && !archived && !search
  const few = (page?.count ?? 0) <= FEW && !search
  const actions = (
    <>
      {may && !archived && <NewBench first={none} />}
      {!none && (
        <div className="border-b border-rule px-4 py-3">
          <Button size={24} aria-pressed={archived} onClick={() => setArchived(!archived)}>
            {archived ? 'Benches in use' : 'Archived benches'}
          </Button>
        </div>
      )}
    </>
  )
  return (
    <>
      {(!few || search) && (
        <div className="border-b border-rule px-4 py-2.5">
          <SearchField
            label="Search the benches"
            placeholder={`Find one of ${page?.count ?? 0} benches`}
            value={search}
            onChange={setSearch}
            className="w-full"
          />
        </div>
      )}
      {!few && actions}
      {page?.items.map((b) => (
        <BenchEntry key={`${b.id} ${few}`} bench={b} opened={few && !archived} may={may} />
      ))}
      {page?.next && (
        <p className="px-4 py-2.5 text-small text-soft">
          {page.count - page.items.length} more: type a part of the name.
        </p>
      )}
      {archived && page?.count === 0 && <p className="p-4 text-soft">No bench is archived.</p>}
      {none && !may && (
        <p className="p-4 text-soft">There is no bench yet. An engineer sets one up.</p>
      )}
      {few && actions}
    </>
  )
}

function NewBench({ first }: { first: boolean }) {
  const [adding, setAdding] = useState(false)
  if (!adding && !first) {
    return (
      <div className="px-4 pt-3">
        <Button size={24} onClick={() => setAdding(true)}>
          Set up another bench
        </Button>
      </div>
    )
  }
  return (
    <Section title="New bench">
      <Form
        label="New bench"
        action="Set up the bench"
        onCancel={first ? undefined : () => setAdding(false)}
        onSubmit={async ({ name = '' }) => {
          await createBench(name)
          setAdding(false)
        }}
      >
        <TextField name="name" label="Name, by which people know its place" required />
      </Form>
    </Section>
  )
}

/** A bench by its name; opened, with its devices and what can be done about it. */
function BenchEntry({ bench, opened, may }: { bench: BenchLine; opened: boolean; may: boolean }) {
  const [open, setOpen] = useState(opened)
  return (
    <section className="border-b border-rule px-4 py-2.5">
      <h3>
        <button
          type="button"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
          className="flex w-full items-baseline gap-2 text-left"
        >
          <span className="truncate">{bench.name}</span>
          <span className="ml-auto flex-none text-small font-normal text-soft">
            {open ? 'less' : counted(bench.devices)}
          </span>
        </button>
      </h3>
      <p className="pb-1 text-small text-soft">
        {bench.archived_at
          ? 'archived'
          : bench.yoke_holder
            ? `${bench.yoke_holder} holds the yoke`
            : 'the yoke is free'}
      </p>
      {open && <Devices bench={bench.id} />}
      {open && may && <Actions bench={bench} />}
    </section>
  )
}

const counted = (devices: number) => (devices === 1 ? '1 device' : `${devices} devices`)

function Actions({ bench }: { bench: BenchLine }) {
  const archived = bench.archived_at !== null
  return (
    <div className="mt-2 flex flex-wrap gap-1.5">
      <Button size={24} onClick={() => void attempt(archiveBench(bench.id, archived))}>
        {archived ? 'Take out of the archive' : 'Archive'}
      </Button>
      {bench.setups === 0 && (
        <ConfirmedButton
          action={`Remove ${bench.name}`}
          warning="It goes with its devices; no setup was made for it."
          onConfirm={() => void attempt(removeBench(bench.id))}
        />
      )}
    </div>
  )
}

const LINKS: Record<string, string> = {
  linked: 'var(--moss)',
  listening: 'var(--marking)',
  lost: 'var(--signal)',
}

function Devices({ bench }: { bench: number }) {
  const devices = useQuery({ ...benchQuery(bench), refetchInterval: 5000 }).data?.devices
  return (
    <>
      <ul>
        {devices?.map((d) => (
          <li
            key={d.id}
            className="flex min-h-7 items-center gap-2 border-t border-rule text-small"
            title={d.link_note}
          >
            <span
              aria-hidden
              className="size-2 flex-none rounded-full"
              style={{ background: LINKS[d.link] ?? 'var(--rule-strong)' }}
            />
            <b className="font-strong">{d.label}</b>
            <span className="truncate text-soft">
              {d.driver}, {d.link === 'unknown' ? 'not seen yet' : d.link}
            </span>
          </li>
        ))}
      </ul>
      {devices?.length === 0 && (
        <p className="text-small text-soft">
          No device yet: they are found and added in Wire, under Devices.
        </p>
      )}
    </>
  )
}
