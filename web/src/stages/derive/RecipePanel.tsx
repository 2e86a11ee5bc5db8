import { useQuery } from '@tanstack/react-query'

import { client, got, type Derivation, type Run } from '../../api/client'
import { queryClient, useMay } from '../../api/queries'
import { changeRecipe, formatsQuery, removeRecipe } from '../../api/results'
import { keptAs } from '../../kinds/keepRules'
import { SPECIMENS } from '../../kinds/specimens'
import { SpecForm } from '../../kinds/SpecForm'
import { ConfirmedButton } from '../../ui/ConfirmedButton'
import { EditableText } from '../../ui/Editable'
import { Fact, Section } from '../../ui/Fact'
import { figure } from '../../ui/format'
import { attempt } from '../../ui/notices'
import { resultKind } from '../../kinds/results'

/** The run's test piece, the construction, and where the numbers come from. */
export function RecipePanel({ run, derivation }: { run: Run; derivation?: Derivation }) {
  const Form = derivation && resultKind(derivation.recipe.parameters.kind).Form
  const mayRecipe = useMay('change recipes')
  const mayRun = useMay('change the specimen')
  const gaps = run.streams.reduce((sum, s) => sum + s.gaps.length, 0)
  return (
    <section className="col overflow-y-auto" aria-label="Recipe">
      <div className="bar">
        <h2>Recipe</h2>
        <span className="ml-auto text-small text-soft">
          {derivation && `version ${derivation.recipe.version}`}
        </span>
      </div>
      <Section title={`Specimen ${run.specimen}`}>
        <SpecForm
          label="Shape"
          forms={SPECIMENS}
          spec={run.piece}
          disabled={!mayRun}
          onSave={(piece) => changeRun(run, { piece })}
        />
      </Section>
      {derivation && Form && (
        <Form
          run={run}
          parameters={derivation.recipe.parameters}
          details={derivation.details}
          disabled={!mayRecipe}
          change={(to) => changeRecipe(derivation.recipe, to, run.id)}
        />
      )}
      {derivation && mayRecipe && (
        <div className="border-b border-rule px-4 py-2.5">
          <ConfirmedButton
            action="Remove this recipe"
            warning="Its results of every run go with it; what was recorded stays."
            onConfirm={() => void attempt(removeRecipe(derivation.recipe.id))}
          />
        </div>
      )}
      <Section title="Where it comes from">
        <Fact name="Run">{run.name}</Fact>
        <Fact name="Setup">version {run.setup_version}</Fact>
        <Fact name="Samples">
          {run.streams.map((s) => (
            <span key={s.id} className="block">
              {s.device}, {keptAs(s.rule)}: <span className="figure">{figure(s.samples, 0)}</span>{' '}
              at <span className="figure">{figure(s.rate_hz, 0)}</span> Hz
            </span>
          ))}
        </Fact>
        {run.streams.map((s) => (
          <Fact key={s.id} name={`${s.device}, ${keptAs(s.rule)}`}>
            <Files run={run.id} stream={s.id} />
          </Fact>
        ))}
        <Fact name="Missing">{gaps ? (gaps === 1 ? '1 gap' : `${gaps} gaps`) : 'nothing'}</Fact>
        <Fact name="Fingerprint">
          <span className="figure">{run.seal.slice(0, 12)}</span>
        </Fact>
        <EditableText
          label="Notes"
          value={run.notes}
          disabled={!mayRun}
          onSave={(notes) => changeRun(run, { notes })}
        />
      </Section>
    </section>
  )
}

/** What was recorded, as files of open formats. */
function Files({ run, stream }: { run: number; stream: number }) {
  const formats = useQuery(formatsQuery).data ?? []
  return formats.map(({ name, title, options }) => (
    <a
      key={title}
      href={`/api/runs/${run}/streams/${stream}/files/${name}?${new URLSearchParams(options).toString()}`}
      download
      className="pl-2 whitespace-nowrap text-petrol underline underline-offset-2"
    >
      {title}
    </a>
  ))
}

async function changeRun(run: Run, body: Record<string, unknown>): Promise<void> {
  const path = { params: { path: { run_id: run.id } } }
  await got(client.PATCH('/api/runs/{run_id}', { ...path, body }))
  await queryClient.invalidateQueries({ queryKey: ['runs'] })
  await queryClient.invalidateQueries({ queryKey: ['derivations'] })
}
