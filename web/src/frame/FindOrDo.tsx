import { useQuery } from '@tanstack/react-query'
import { Dialog } from 'radix-ui'
import { useEffect, useMemo, useState, type KeyboardEvent } from 'react'
import { useNavigate } from 'react-router'

import * as deeds from '../api/deeds'
import { projectsQuery, reportsQuery, runsQuery, sensorsQuery } from '../api/queries'
import { derivationsQuery } from '../api/results'
import { setTheme, useTheme } from '../ui/theme'
import { onOpenFindOrDo } from './findState'
import { STAGE_NAMES, STAGES } from './Line'
import type { StageContext } from './stage'

interface Entry {
  kind: string
  words: string
  act: () => void
}

/** Ctrl K: every project, channel, run, sensor and deed by its words. */
export function FindOrDo(context: StageContext) {
  const [open, setOpen] = useState(false)
  useEffect(() => onOpenFindOrDo(() => setOpen(true)), [])
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[60px] left-1/2 z-50 w-[560px] -translate-x-1/2 rounded border border-rule bg-sheet shadow-[0_6px_20px_rgba(0,0,0,.25)]"
        >
          <Dialog.Title className="sr-only">Find or do</Dialog.Title>
          <Search {...context} close={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}

function useEntries({ setup, bench, choose }: StageContext): Entry[] {
  const go = useNavigate()
  const theme = useTheme()
  const runs = useQuery(runsQuery(setup.id)).data
  const projects = useQuery(projectsQuery).data
  const sensors = useQuery(sensorsQuery).data
  const reports = useQuery(reportsQuery(setup.id)).data
  const last = runs?.findLast((r) => r.state === 'kept')
  const results = useQuery({ ...derivationsQuery(last?.id ?? 0), enabled: !!last }).data
  return useMemo(() => {
    const at = (stage: string) => () => void go(`/setups/${setup.id}/${stage}`)
    const rest = deeds.toZero(setup)
    return [
      ...STAGES.map((s) => ({ kind: 'stage', words: STAGE_NAMES[s], act: at(s) })),
      ...setup.channels.map((c) => ({
        kind: 'channel',
        words: `${c.name}, input ${c.input_label}`,
        act: () => {
          choose(c.id)
          at('wire')()
        },
      })),
      ...(runs ?? []).map((r) => ({ kind: 'run', words: r.name, act: at(`derive?run=${r.id}`) })),
      ...(results ?? []).map((d) => ({
        kind: 'result',
        words: `${d.recipe.parameters.kind}, ${last?.name}`,
        act: at(`derive?run=${d.run}`),
      })),
      ...(reports ?? []).map((r) => ({
        kind: 'report',
        words: `${r.title}, ${r.number}`,
        act: at(`report?report=${r.id}`),
      })),
      ...(sensors ?? []).map((s) => ({
        kind: 'sensor',
        words: `${s.name}, ${s.serial}`,
        act: at('wire'),
      })),
      ...(projects ?? []).flatMap((p) =>
        p.setups.map((s) => ({
          kind: 'project',
          words: `${p.name} / ${s.name}`,
          act: () => void go(`/setups/${s.id}/wire`),
        })),
      ),
      {
        kind: 'do',
        words: `Zero ${rest.length} channels`,
        act: () => void deeds.zero(setup.id, rest),
      },
      {
        kind: 'do',
        words: 'Shunt check all bridges',
        act: () => void deeds.shuntCheck(setup.id, deeds.bridgesOf(setup)),
      },
      { kind: 'do', words: 'Take the yoke', act: () => void deeds.takeYoke(bench.id) },
      { kind: 'do', words: 'Hand over the yoke', act: () => void deeds.handOver(bench.id) },
      { kind: 'do', words: 'Start the pull', act: () => void deeds.startPull(setup.id) },
      {
        kind: 'do',
        words: 'Stop recording',
        act: () => void deeds.stopBench(bench.id),
      },
      {
        kind: 'do',
        words: 'Reset lowest and highest of all channels',
        act: () => void deeds.resetPeaks(bench.id, []),
      },
      { kind: 'do', words: 'Return the actuator', act: () => void deeds.returnActuator(bench.id) },
      { kind: 'do', words: 'Undo the last change', act: () => void deeds.undo(setup.id) },
      {
        kind: 'do',
        words: theme === 'night' ? 'Day colours' : 'Night colours',
        act: () => setTheme(theme === 'night' ? 'day' : 'night'),
      },
      { kind: 'do', words: 'Sign out', act: () => void deeds.signOut() },
    ]
  }, [setup, bench, choose, runs, projects, sensors, reports, results, last, theme, go])
}

/** Those that hold all the letters; whose words begin with them come first. */
function matching(entries: Entry[], wanted: string[]): Entry[] {
  const begins = (e: Entry) =>
    wanted.every((w) =>
      e.words
        .toLowerCase()
        .split(/[^\p{L}\d]+/u)
        .some((x) => x.startsWith(w)),
    )
  const found = entries.filter((e) =>
    wanted.every((w) => `${e.kind} ${e.words}`.toLowerCase().includes(w)),
  )
  return [...found.filter(begins), ...found.filter((e) => !begins(e))]
}

function Search({ close, ...context }: StageContext & { close: () => void }) {
  const entries = useEntries(context)
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const wanted = text.toLowerCase().split(/\s+/)
  const found = matching(entries, wanted).slice(0, 12)
  const take = (entry: Entry | undefined) => {
    if (!entry) return
    close()
    entry.act()
  }
  const onKey = (event: KeyboardEvent) => {
    if (event.key === 'ArrowDown') setAt(Math.min(at + 1, found.length - 1))
    else if (event.key === 'ArrowUp') setAt(Math.max(at - 1, 0))
    else if (event.key === 'Enter') take(found[at])
    else return
    event.preventDefault()
  }
  return (
    <>
      <input
        autoFocus
        value={text}
        placeholder="A stage, channel, run, sensor, project or deed"
        aria-label="Find or do"
        role="combobox"
        aria-expanded
        aria-controls="found"
        aria-activedescendant={`found-${at}`}
        onChange={(e) => {
          setText(e.target.value)
          setAt(0)
        }}
        onKeyDown={onKey}
        className="h-11 w-full border-b border-rule bg-transparent px-4 text-[15px] outline-none"
      />
      <ul id="found" role="listbox" className="p-1.5">
        {found.map((entry, i) => (
          <li
            key={entry.kind + entry.words}
            id={`found-${i}`}
            role="option"
            aria-selected={i === at}
            onClick={() => take(entry)}
            onMouseMove={() => setAt(i)}
            className={`flex h-8 cursor-pointer items-center gap-3 rounded px-2.5 ${i === at ? 'bg-petrol-wash' : ''}`}
          >
            <span className="w-14 text-[12px] text-soft">{entry.kind}</span>
            {entry.words}
          </li>
        ))}
        {found.length === 0 && <li className="px-2.5 py-2 text-soft">Nothing is called that.</li>}
      </ul>
    </>
  )
}
