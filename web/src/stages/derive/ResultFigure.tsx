import { useQuery } from '@tanstack/react-query'

import { ProblemError, type Derivation, type Run } from '../../api/client'
import { changeRecipe, columnsQuery } from '../../api/results'
import { resultKind } from '../../kinds/results'

/** The figure of a run's result, or why there is none. */
export function ResultFigure({ run, derivation }: { run: Run; derivation: Derivation }) {
  const { recipe, details, stale, problem, notes } = derivation
  const columns = useQuery({ ...columnsQuery(derivation), enabled: !!details })
  if (columns.error) return <Trouble {...ProblemError.of(columns.error)} />
  if (problem && !stale) return <Trouble title={problem.title} hint={problem.hint} />
  if (!details || !columns.data)
    return <p className="p-4 text-soft">Computing from the raw samples.</p>
  const { Figure } = resultKind(recipe.parameters.kind)
  const words = [
    ...(stale ? ['The worker is computing this anew; these are the last results.'] : []),
    ...notes,
  ]
  return (
    <>
      <Figure
        run={run}
        parameters={recipe.parameters}
        details={details}
        columns={columns.data}
        change={(to) => changeRecipe(recipe, to, run.id)}
      />
      {words.map((note) => (
        <p key={note} className="border-t border-rule bg-marking-wash px-4 py-1.5 text-marking-ink">
          {note}
        </p>
      ))}
    </>
  )
}

function Trouble({ title, hint }: { title: string; hint?: string }) {
  return (
    <p role="alert" className="m-4 max-w-lg rounded border-l-4 border-signal bg-signal-wash p-4">
      <b className="font-strong">{title}</b> {hint}
    </p>
  )
}
