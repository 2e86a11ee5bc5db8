import { useInfiniteQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import { emergencyStopAll } from '../api/actions'
import type { Project, SetupLine } from '../api/projects'
import { projectsQuery, useMay } from '../api/queries'
import { useEscEsc } from '../frame/escEsc'
import { FindButton, type Entry } from '../frame/FindDialog'
import { PAGE_KEYS, useFindKey } from '../frame/pageKeys'
import { PersonMenu } from '../frame/PersonMenu'
import { Button } from '../ui/Button'
import { Segments } from '../ui/Fact'
import { Mark } from '../ui/Icon'
import { FindProject } from './FindProject'
import { ProjectRow, ROW } from './ProjectRow'
import { SidePanel, type Making } from './SidePanel'

const stopAll = () => void emergencyStopAll()

/** Every project with what it is at: a row each, the chosen one with its lesser actions. */
export function Projects() {
  useEscEsc(stopAll)
  const [which, setWhich] = useState<'open' | 'archived'>('open')
  const open = useInfiniteQuery({ ...projectsQuery(false), refetchInterval: 5000 })
  const archived = useInfiniteQuery(projectsQuery(true))
  const shown = which === 'open' ? open : archived
  const [chosen, setChosen] = useState<number | null>(null)
  const [setups, setSetups] = useState<Record<number, number>>({})
  const [making, setMaking] = useState<Making>(null)
  const may = useMay('arrange projects')
  useKeys(may, () => setMaking('project'))
  const rows = shown.data?.pages.flatMap((p) => p.items) ?? []
  const none = countOf(open) === 0
  const project = rows.find((p) => p.id === chosen)
  const actions: Entry[] = [
    ...(may ? [{ kind: 'do', words: 'New project', act: () => setMaking('project') }] : []),
    { kind: 'do', words: 'Show archived projects', act: () => setWhich('archived') },
  ]
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_264px] grid-rows-[44px_1fr]">
      <header className="col-span-2 flex items-center border-b border-rule bg-sheet">
        <span className="grid h-full w-22 place-items-center border-r border-rule">
          <Mark />
        </span>
        <h1 className="w-100 px-4">Projects</h1>
        <FindButton />
        <span className="ml-auto h-full">
          <PersonMenu />
        </span>
      </header>
      <main className="flex min-h-0 flex-col bg-well">
        <div className="bar">
          <Segments
            label="Which projects"
            value={which}
            onChange={setWhich}
            options={[
              ['open', `Open ${countOf(open) ?? ''}`],
              ['archived', `Archived ${countOf(archived) ?? ''}`],
            ]}
          />
          <span className="ml-auto">
            {may && (
              <Button
                shortcut="N"
                look={none ? 'go' : 'plain'}
                onClick={() => setMaking('project')}
              >
                New project
              </Button>
            )}
          </span>
        </div>
        {shown.isError && (
          <p role="alert" className="p-4">
            The projects could not be read. Load the page again.
          </p>
        )}
        {rows.length > 0 && <Head />}
        {none && which === 'open' && <Beginning />}
        <ul className="min-h-0 flex-1 overflow-y-auto">
          {rows.map((p, i) => (
            <ProjectRow
              key={p.id}
              project={p}
              chosen={p.id === chosen}
              pressing={i === pressing(rows)}
              setup={setupOf(p, setups[p.id])}
              onChoose={(setup) => {
                setChosen(p.id)
                if (setup) setSetups({ ...setups, [p.id]: setup })
              }}
              onNewSetup={() => {
                setChosen(p.id)
                setMaking('setup')
              }}
            />
          ))}
          {shown.hasNextPage && (
            <li className="p-4">
              <Button
                size={36}
                disabled={shown.isFetchingNextPage}
                onClick={() => void shown.fetchNextPage()}
              >
                Older projects, {countOf(shown)! - rows.length} more
              </Button>
            </li>
          )}
        </ul>
      </main>
      <aside
        aria-label={making ? 'New' : 'Benches'}
        className="min-h-0 overflow-y-auto border-l border-rule bg-paper"
      >
        <SidePanel
          making={making}
          project={project}
          onDone={() => setMaking((now) => (now === making ? null : now))}
        />
      </aside>
      <FindProject actions={actions} />
    </div>
  )
}

/** How many projects there are, shown or not. */
const countOf = (list: { data?: { pages: { count: number }[] } }) => list.data?.pages[0]?.count

/** The setup that was chosen, or else the one that was last worked with. */
function setupOf(project: Project, chosen: number | undefined): SetupLine | undefined {
  const last = (s: SetupLine) => s.last_run?.started_at ?? ''
  return (
    project.setups.find((s) => s.id === chosen) ??
    [...project.setups].sort((a, b) => last(b).localeCompare(last(a)))[0]
  )
}

/** The row whose action is filled: one that records, else the first. */
function pressing(rows: readonly Project[]): number {
  return Math.max(
    0,
    rows.findIndex((p) => p.setups.some((s) => s.recording)),
  )
}

function Head() {
  return (
    <div className={`${ROW} border-b border-rule-strong bg-paper text-small text-soft`}>
      <span className="border-r border-rule px-4 py-1">Project and setups</span>
      <span className="grid grid-cols-5 px-4 py-1 text-center">
        <span>Wire</span>
        <span>Calibrate</span>
        <span>Record</span>
        <span>Derive</span>
        <span>Report</span>
      </span>
      <span className="border-x border-rule px-3.5 py-1">Latest curve</span>
      <span className="px-4 py-1">Next, and its bench</span>
    </div>
  )
}

function Beginning() {
  return (
    <ol className="m-6 max-w-lg list-decimal rounded border border-rule bg-sheet py-4 pr-5 pl-9 leading-6">
      <li>Set up a bench on the right, and tell where its devices answer.</li>
      <li>Begin a project: what is tested, for whom.</li>
      <li>Add a setup of a kind of test; then wire, calibrate and record.</li>
    </ol>
  )
}

/** N for a new project, Ctrl K to find. */
function useKeys(may: boolean, make: () => void): void {
  useFindKey()
  useHotkeys('n', make, { ...PAGE_KEYS, enabled: may, preventDefault: true })
}
