import * as actions from '../api/actions'
import type { Project } from '../api/projects'
import { setTheme, type Theme } from '../ui/theme'
import type { Entry } from './FindDialog'

/** What can be found and done on every page. */

export const ofProjects = (
  projects: readonly Project[],
  go: (path: string) => void | Promise<void>,
): Entry[] =>
  projects.flatMap((p) =>
    p.setups.map((s) => ({
      kind: 'project',
      words: `${p.name} / ${s.name}`,
      act: () => void go(`/setups/${s.id}/${s.next.stage}`),
    })),
  )

export const ofPerson = (theme: Theme): Entry[] => [
  {
    kind: 'do',
    words: theme === 'night' ? 'Day colours' : 'Night colours',
    act: () => setTheme(theme === 'night' ? 'day' : 'night'),
  },
  { kind: 'do', words: 'Sign out', act: () => void actions.signOut() },
]
