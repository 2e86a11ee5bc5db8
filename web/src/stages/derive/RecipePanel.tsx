import { useQuery } from '@tanstack/react-query'

import { client, got, type Run } from '../../api/client'
import { queryClient, tensionQuery, useMay } from '../../api/queries'
import { EditableNumber, EditableText } from '../../ui/Editable'
import { Fact, Section } from '../../ui/Fact'
import { figure } from '../../ui/format'
import { changeRecipe } from './recipe'

/** The run's test piece, the construction, and where the numbers come from. */
export function RecipePanel({ run }: { run: Run }) {
  const tension = useQuery(tensionQuery(run.id)).data
  const mayRecipe = useMay('change recipes')
  const mayRun = useMay('change the specimen')
  const channel = (quantity: string) =>
    run.channels.find((c) => c.quantity === quantity)?.name ?? '–'
  const gaps = run.streams.reduce((sum, s) => sum + s.gaps.length, 0)
  return (
    <section className="col overflow-y-auto" aria-label="Recipe">
      <div className="bar">
        <h2>Recipe</h2>
        <span className="ml-auto text-[12px] text-soft">flat coupon, tension</span>
      </div>
      <Section title={`Specimen ${run.specimen}`}>
        {(
          [
            ['Width', 'width_m'],
            ['Thickness', 'thickness_m'],
            ['Gauge length', 'gauge_length_m'],
          ] as const
        ).map(([label, field]) => (
          <EditableNumber
            key={field}
            label={label}
            value={run[field] * 1e3}
            decimals={2}
            unit="mm"
            disabled={!mayRun}
            onSave={(v) => changeRun(run, { [field]: v * 1e-3 })}
          />
        ))}
        <Fact name="Stress from">{channel('force')} / (b × t)</Fact>
        <Fact name="Strain from">{channel('extension')} / gauge length</Fact>
      </Section>
      {tension && (
        <Section title="Construction">
          <EditableNumber
            label="Fit range from"
            value={tension.recipe.fit_lower_pa / 1e6}
            decimals={0}
            unit="MPa"
            disabled={!mayRecipe}
            onSave={(v) => changeRecipe(run.id, { fit_lower_pa: v * 1e6 })}
          />
          <EditableNumber
            label="to"
            value={tension.recipe.fit_upper_pa / 1e6}
            decimals={0}
            unit="MPa"
            disabled={!mayRecipe}
            onSave={(v) => changeRecipe(run.id, { fit_upper_pa: v * 1e6 })}
          />
          <EditableNumber
            label="Offset"
            value={tension.recipe.offset * 100}
            decimals={3}
            unit="%"
            disabled={!mayRecipe}
            onSave={(v) => changeRecipe(run.id, { offset: v / 100 })}
          />
          <Fact name="Toe taken off">
            <span className="figure">
              {figure(tension.result && tension.result.modulus.origin * 100, 4)}
            </span>{' '}
            %
          </Fact>
          <Fact name="Samples in the fit">
            <span className="figure">{figure(tension.result?.modulus.points, 0)}</span>
          </Fact>
        </Section>
      )}
      <Section title="Where it comes from">
        <Fact name="Run">{run.name}</Fact>
        <Fact name="Setup">version {run.setup_version}</Fact>
        <Fact name="Samples">
          {run.streams.map((s) => (
            <span key={s.device} className="block">
              {s.device}: <span className="figure">{figure(s.samples, 0)}</span> at{' '}
              <span className="figure">{figure(s.rate_hz, 0)}</span> Hz
            </span>
          ))}
        </Fact>
        <Fact name="Missing">{gaps ? `${gaps} gaps` : 'nothing'}</Fact>
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

async function changeRun(run: Run, body: Record<string, unknown>): Promise<void> {
  const path = { params: { path: { run_id: run.id } } }
  await got(client.PATCH('/api/runs/{run_id}', { ...path, body }))
  await queryClient.invalidateQueries({ queryKey: ['runs'] })
  await queryClient.invalidateQueries({ queryKey: ['tension'] })
}
