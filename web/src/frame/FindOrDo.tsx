import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'

import * as actions from '../api/actions'
import { foundProjectsQuery, foundReportsQuery, foundRunsQuery, sensorsQuery } from '../api/queries'
import { derivationsQuery } from '../api/results'
import { useTheme } from '../ui/theme'
import { FindDialog, Search, type Entry } from './FindDialog'
import { ofPerson, ofProjects } from './entries'
import { STAGE_NAMES, STAGES } from './Line'
import type { StageContext } from './stage'

/** Ctrl K: every project, channel, run, sensor and action by its words. */
export function FindOrDo(context: StageContext) {
  return <FindDialog>{(close) => <OfSetup {...context} close={close} />}</FindDialog>
}

function OfSetup({ close, ...context }: StageContext & { close: () => void }) {
  const [words, setWords] = useState('')
  return <Search {...useEntries(context, words)} onWords={setWords} close={close} />
}

/** What has come so far, and whether more is on its way. */
function useEntries({ setup, bench, choose }: StageContext, words: string) {
  const go = useNavigate()
  const theme = useTheme()
  const { data: ran, isFetching: ofRuns } = useQuery(foundRunsQuery(setup.id, words))
  const runs = ran?.items
  const { data: house, isFetching: ofHouse } = useQuery(foundProjectsQuery(words))
  const projects = house?.items
  const { data: library, isFetching: ofLibrary } = useQuery(sensorsQuery(words))
  const sensors = library?.items
  const { data: written, isFetching: ofReports } = useQuery(foundReportsQuery(setup.id, words))
  const reports = written?.items
  const last = runs?.find((r) => r.state === 'kept')
  const { data: results, isLoading: ofResults } = useQuery({
    ...derivationsQuery(last?.id ?? 0),
    enabled: !!last,
  })
  const reading = ofRuns || ofHouse || ofLibrary || ofReports || ofResults
  const entries = useMemo((): Entry[] => {
    const at = (stage: string) => () => void go(`/setups/${setup.id}/${stage}`)
    const rest = actions.toZero(setup)
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
      ...ofProjects(projects ?? [], go),
      {
        kind: 'do',
        words: `Zero ${rest.length} channels`,
        act: () => void actions.zero(setup.id, rest),
      },
      {
        kind: 'do',
        words: 'Shunt check all bridges',
        act: () => void actions.shuntCheck(setup.id, actions.bridgesOf(setup)),
      },
      { kind: 'do', words: 'Lay runs over each other', act: at('derive/curves') },
      { kind: 'do', words: 'Check the signals', act: at('record/signals') },
      { kind: 'do', words: 'Take the yoke', act: () => void actions.takeYoke(bench.id) },
      { kind: 'do', words: 'Hand over the yoke', act: () => void actions.handOver(bench.id) },
      { kind: 'do', words: 'Start the pull', act: () => void actions.startPull(setup) },
      {
        kind: 'do',
        words: 'Stop recording',
        act: () => void actions.stopBench(bench.id),
      },
      {
        kind: 'do',
        words: 'Reset lowest and highest of all channels',
        act: () => void actions.resetPeaks(bench.id, []),
      },
      {
        kind: 'do',
        words: 'Return the actuator',
        act: () => void actions.returnActuator(bench.id),
      },
      { kind: 'do', words: 'Undo the last change', act: () => void actions.undo(setup.id) },
      ...ofPerson(theme),
    ]
  }, [setup, bench, choose, runs, projects, sensors, reports, results, last, theme, go])
  return { entries, reading }
}
