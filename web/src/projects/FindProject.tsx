import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { emergencyStopAll } from '../api/actions'
import { foundProjectsQuery } from '../api/queries'
import { ofPerson, ofProjects } from '../frame/entries'
import { FindDialog, Search, type Entry } from '../frame/FindDialog'
import { useTheme } from '../ui/theme'

interface Props {
  /** What this page itself can do. */
  actions: readonly Entry[]
}

/** Ctrl K on the projects page: every setup and its newest run, and what can be done here. */
export function FindProject(props: Props) {
  return <FindDialog>{(close) => <OfHouse {...props} close={close} />}</FindDialog>
}

function OfHouse({ actions, close }: Props & { close: () => void }) {
  const go = useNavigate()
  const theme = useTheme()
  const [words, setWords] = useState('')
  const { data, isFetching } = useQuery(foundProjectsQuery(words))
  const projects = data?.items ?? []
  const runs = projects.flatMap((p) =>
    p.setups.flatMap((s) =>
      s.last_run
        ? [
            {
              kind: 'run',
              words: `${s.last_run.name}, ${p.name}`,
              act: () => void go(`/setups/${s.id}/derive?run=${s.last_run!.id}`),
            },
          ]
        : [],
    ),
  )
  const stop = {
    kind: 'do',
    words: 'Emergency stop of my benches',
    act: () => void emergencyStopAll(),
  }
  return (
    <Search
      entries={[...ofProjects(projects, go), ...runs, ...actions, stop, ...ofPerson(theme)]}
      reading={isFetching}
      onWords={setWords}
      close={close}
    />
  )
}
