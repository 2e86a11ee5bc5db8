import { useCallback, useMemo } from 'react'

import { Plot } from '../../../plots/Plot'
import { Numbers, type NumberField } from '../../../ui/Numbers'
import { Section } from '../../../ui/Fact'
import type { FigureProps, FormProps, ResultKind } from '../kind'

/** The first column of a result over its second, or over its order where it has one alone. */
function Figure({ columns }: FigureProps) {
  const [first, second] = useMemo(() => Object.entries(columns), [columns])
  const [x, y] = second ? [first, second] : [undefined, first]
  const data = useCallback(
    () =>
      [x ? [...x[1]] : [...(y?.[1] ?? [])].map((_, i) => i), [...(y?.[1] ?? [])]] as [
        number[],
        number[],
      ],
    [x, y],
  )
  const curves = useMemo(() => [{ name: y?.[0] ?? '', colour: '--curve-1' }], [y])
  if (!y) return <p className="p-4 text-soft">Its values stand in the table below.</p>
  return (
    <Plot
      curves={curves}
      data={data}
      unordered
      xName={x?.[0] ?? 'Number'}
      xUnit="SI"
      yName={y[0]}
      yUnit="SI"
      label={`${y[0]} of the result`}
    />
  )
}

/** Every number among its parameters, in SI. */
function Form({ parameters, disabled, change }: FormProps) {
  const values = parameters as unknown as Record<string, number>
  const fields: NumberField[] = Object.entries(values)
    .filter(([, value]) => typeof value === 'number')
    .map(([name]) => ({ name, label: name.replaceAll('_', ' '), unit: 'SI', decimals: 4 }))
  return (
    <Section title="Parameters">
      <Numbers fields={fields} values={values as never} disabled={disabled} change={change} />
    </Section>
  )
}

/** What is shown of a kind of result that this page does not know. */
export const generic: ResultKind = {
  title: ({ kind }) => String(kind).replaceAll('_', ' '),
  Figure,
  Form,
}
