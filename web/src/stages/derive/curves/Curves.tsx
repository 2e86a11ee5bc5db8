import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link, useSearchParams } from 'react-router'

import { ProblemError, type Run } from '../../../api/client'
import { curvePagesQuery, projectRunsQuery, type CurvesPage } from '../../../api/curves'
import { useRuns } from '../../../api/queries'
import { useStage } from '../../../frame/stage'
import { Button } from '../../../ui/Button'
import { EditableNumber } from '../../../ui/Editable'
import { Segments } from '../../../ui/Fact'
import { AlignForm } from './AlignForm'
import { CurvePlot } from './CurvePlot'
import { CursorTable } from './CursorTable'
import { KeptPages } from './KeptPages'
import { RunsLaid } from './RunsLaid'
import { Saving } from './Saving'
import { extentOf, useLaidRuns, type LaidRun } from './useCurves'
import { WindowTable } from './WindowTable'
import { about, moved, shownRange, stepped, UNZOOMED, zoomed, type Range } from './zooms'

const FIRST_RUNS = 5
const FIRST_CHANNELS = 2

/** A page begins with the newest of some runs, with the one that is wanted, and its first channels. */
function beginning(runs: readonly Run[], wanted: number | null): CurvesPage {
  const first = runs.find((r) => r.id === wanted) ?? runs[0]
  const alike = runs.filter((r) => r.state !== 'recording' || r === first).slice(0, FIRST_RUNS)
  const chosen = first && !alike.includes(first) ? [first, ...alike.slice(1)] : alike
  const channels = first?.channels.slice(0, FIRST_CHANNELS).map((c) => c.name) ?? []
  return {
    runs: [...chosen]
      .reverse()
      .map(({ id }) => ({ run: id, shown: true, shift_s: 0, left_out: '', name: '' })),
    channels,
    across: '',
    speed_m_s: null,
    align: { kind: 'start' },
    window: null,
    window_of: '',
    slope_at_most: null,
  }
}

/** Stored runs laid over each other, with cursors and the statistics of a window. */
export function Curves() {
  const { setup } = useStage()
  const [params] = useSearchParams()
  const project = setup.project_id
  const newest = useQuery(projectRunsQuery(project, '')).data?.items
  const pages = useQuery(curvePagesQuery(project)).data
  const [edited, edit] = useState<CurvesPage | null>(null)
  const [name, setName] = useState('')
  const own = useRuns(setup.id)
  if (!newest || !pages || own.isLoading) return null
  if (newest.length === 0)
    return (
      <p className="p-8">
        No run is stored yet: go to <Link to={`/setups/${setup.id}/record`}>Record</Link> and make
        one.
      </p>
    )
  const page =
    edited ??
    beginning(own.rows.length ? [...own.rows].reverse() : newest, Number(params.get('run')) || null)
  return (
    <Page
      page={page}
      change={(more) => edit({ ...page, ...more })}
      project={project}
      known={[...newest, ...own.rows]}
      setup={setup.id}
      kept={
        <KeptPages
          project={project}
          pages={pages}
          page={page}
          name={name}
          onOpen={(found) => {
            edit(found.page)
            setName(found.name)
          }}
          onName={setName}
        />
      }
    />
  )
}

interface PageProps {
  page: CurvesPage
  change: (more: Partial<CurvesPage>) => void
  project: number
  /** Runs that are known beside those that somebody looked for. */
  known: readonly Run[]
  setup: number
  kept: React.ReactNode
}

/** All runs that any list of this project has brought. */
function useKnownRuns(project: number): Run[] {
  const client = useQueryClient()
  const lists = client.getQueriesData<{ items: Run[] }>({ queryKey: ['runs', 'project', project] })
  return lists.flatMap(([, list]) => list?.items ?? [])
}

function Page({ page, change, project, known, setup, kept }: PageProps) {
  const laid = useLaidRuns(page, [...useKnownRuns(project), ...known])
  const [zooms, setZooms] = useState(UNZOOMED)
  const box = useRef<HTMLDivElement>(null)
  const extent = extentOf(laid)
  const range = shownRange(zooms) ?? extent
  const [placed, setCursors] = useState<Range | null>(null)
  const cursors = placed ?? ([at(range, 0.3), at(range, 0.7)] as Range)
  const window: Range | null = page.window ? [page.window.from_s, page.window.to_s] : null
  const setWindow = ([from_s, to_s]: Range) =>
    change({ window: { from_s: Math.min(from_s, to_s), to_s: Math.max(from_s, to_s) } })
  const zoom = (to: Range | null) => setZooms((now) => zoomed(now, to))
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.target !== box.current) return
    const middle = at(range, 0.5)
    const to: Record<string, () => void> = {
      '+': () => zoom(about(range, middle, 0.5)),
      '-': () => zoom(about(range, middle, 2)),
      ArrowLeft: () => zoom(moved(range, -0.25)),
      ArrowRight: () => zoom(moved(range, 0.25)),
      Backspace: () => setZooms((now) => stepped(now, -1)),
    }
    if (!to[event.key]) return
    event.preventDefault()
    to[event.key]!()
  }
  const onWheel = (event: React.WheelEvent) => {
    const { left, width } = event.currentTarget.getBoundingClientRect()
    const share = Math.min(1, Math.max(0, (event.clientX - left - 58) / (width - 150)))
    zoom(about(range, at(range, share), event.deltaY > 0 ? 1.25 : 0.8))
  }
  const nameRoom = Math.min(18, Math.max(4, ...laid.map((one) => one.name.length)))
  return (
    <div className="grid h-full grid-cols-[248px_minmax(0,1fr)]">
      <RunsLaid project={project} page={page} laid={laid} change={change} />
      <section className="flex min-h-0 min-w-0 flex-col bg-sheet" aria-label="Curves">
        <div className="bar">
          <h1>Curves</h1>
          {kept}
          <span className="ml-auto flex items-center gap-2">
            <Saving page={page} laid={laid} range={range} box={box} />
            <Link
              to={`/setups/${setup}/derive`}
              className="inline-flex h-7 items-center rounded border border-rule-strong px-2.5"
            >
              Results
            </Link>
          </span>
        </div>
        <Choices page={page} laid={laid} change={change} />
        <div className="flex flex-none items-center gap-1.5 border-b border-rule px-4 pb-1.5">
          <Button size={24} disabled={zooms.at === 0} onClick={() => setZooms(stepped(zooms, -1))}>
            Back
          </Button>
          <Button
            size={24}
            disabled={zooms.at === zooms.ranges.length - 1}
            onClick={() => setZooms(stepped(zooms, 1))}
          >
            Forward
          </Button>
          <Button size={24} disabled={!shownRange(zooms)} onClick={() => zoom(null)}>
            All of it
          </Button>
          <span className="ml-2 text-small text-soft">
            Drag to look closer; wheel, + and − zoom, arrows move
          </span>
          <Button
            size={24}
            className="ml-auto"
            onClick={() =>
              window ? change({ window: null }) : setWindow([at(range, 0.4), at(range, 0.6)])
            }
          >
            {window ? 'Take the window away' : 'Window'}
          </Button>
        </div>
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_268px]">
          <div
            ref={box}
            tabIndex={0}
            role="group"
            aria-label="Plots"
            onKeyDown={onKeyDown}
            onWheel={onWheel}
            className="flex min-h-0 flex-col overflow-y-auto"
          >
            {page.channels.map((name, i) => (
              <div key={name} className="flex min-h-30 flex-1">
                <CurvePlot
                  page={page}
                  laid={laid}
                  name={name}
                  range={range}
                  isLast={i === page.channels.length - 1}
                  nameRoom={nameRoom}
                  onZoom={(from, to) => zoom([from, to])}
                  marked={{ cursors, window, setCursors, setWindow }}
                />
              </div>
            ))}
            {page.channels.length === 0 && (
              <p className="m-auto text-soft">Choose a channel above.</p>
            )}
          </div>
          <CursorTable page={page} laid={laid} range={range} cursors={cursors} />
        </div>
        {window && <WindowTable page={page} laid={laid} window={window} change={change} />}
      </section>
    </div>
  )
}

const at = ([from, to]: Range, share: number): number => from + share * (to - from)
const MAX_PLOTS = 8
const WALK = 1 // m/s, until somebody types the speed

interface ChoicesProps {
  page: CurvesPage
  laid: readonly LaidRun[]
  change: (more: Partial<CurvesPage>) => void
}

/** Which channels, over what, and aligned at which instant. */
function Choices({ page, laid, change }: ChoicesProps) {
  const channels = laid.filter((one) => one.drawn.shown ?? true).flatMap((one) => one.channels)
  const names = [...new Map(channels.map((c) => [c.name, c])).values()]
  const toggle = (name: string) => {
    const next = page.channels.includes(name)
      ? page.channels.filter((n) => n !== name)
      : [...page.channels, name]
    if (next.length <= MAX_PLOTS) change({ channels: next })
  }
  const over = page.across ? 'channel' : page.speed_m_s ? 'distance' : 'time'
  return (
    <div className="flex flex-none flex-wrap items-center gap-x-4 gap-y-1 px-4 py-1.5">
      <span role="group" aria-label="Channels shown" className="flex flex-wrap gap-1">
        {names.map(({ key, name }) => (
          <button
            key={key}
            type="button"
            aria-pressed={page.channels.includes(name)}
            onClick={() => toggle(name)}
            className={`h-6 rounded border px-2 text-small ${
              page.channels.includes(name)
                ? 'border-rule-strong bg-paper font-number'
                : 'border-dashed border-rule-strong text-soft'
            }`}
          >
            {name}
          </button>
        ))}
      </span>
      <span className="flex items-center gap-2 text-small text-soft">
        <Segments
          label="Across"
          options={[
            ['time', 'Time'],
            ['distance', 'Distance'],
            ['channel', 'Channel'],
          ]}
          value={over}
          onChange={(to) =>
            change({
              across: to === 'channel' ? (names[0]?.name ?? '') : '',
              speed_m_s: to === 'distance' ? (page.speed_m_s ?? WALK) : null,
            })
          }
        />
        {over === 'channel' && (
          <select
            aria-label="Channel across"
            value={page.across}
            onChange={(e) => change({ across: e.target.value })}
            className="border-b border-dotted border-soft bg-transparent font-number text-ink"
          >
            {names.map((c) => (
              <option key={c.key}>{c.name}</option>
            ))}
          </select>
        )}
        {over === 'distance' && (
          <Speed value={page.speed_m_s!} onSave={(speed_m_s) => change({ speed_m_s })} />
        )}
      </span>
      <AlignForm
        align={page.align ?? { kind: 'start' }}
        channels={names}
        change={(align) => change({ align })}
      />
    </div>
  )
}

function Speed({ value, onSave }: { value: number; onSave: (speed: number) => void }) {
  return (
    <EditableNumber
      label="at"
      value={value}
      unit="m/s"
      decimals={2}
      onSave={async (speed) => {
        if (!(speed > 0))
          throw new ProblemError({
            title: 'Nothing passes at this speed: distance needs one above 0.',
            status: 422,
          })
        onSave(speed)
      }}
    />
  )
}
