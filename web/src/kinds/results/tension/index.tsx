import { Fact, Section } from '../../../ui/Fact'
import { figure } from '../../../ui/format'
import type { FormProps, ResultKind, FigureProps } from '../kind'
import { Numbers } from '../../../ui/Numbers'
import { Construction } from './Construction'
import type { Shown } from './shown'
import { WholeCurve } from './WholeCurve'

function Figure({ run, parameters, details, columns, change }: FigureProps<'tension'>) {
  const [strain, stress] = [columns['strain']!, columns['stress']!]
  const end = details.whole_points
  const shown: Shown = {
    recipe: parameters,
    result: details,
    curve: {
      whole: { strain: strain.subarray(0, end), stress: stress.subarray(0, end) },
      near: { strain: strain.subarray(end), stress: stress.subarray(end) },
    },
    name: run.specimen,
    change,
  }
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[2fr_3fr]">
      <div className="flex min-h-0 border-r border-rule">
        <WholeCurve {...shown} />
      </div>
      <Construction {...shown} />
    </div>
  )
}

const FIELDS = [
  { name: 'fit_lower_pa', label: 'Fit range from', unit: 'MPa', by: 1e6, decimals: 0 },
  { name: 'fit_upper_pa', label: 'to', unit: 'MPa', by: 1e6, decimals: 0 },
  { name: 'offset', label: 'Offset', unit: '%', by: 0.01, decimals: 3 },
]

function Form({ run, parameters: p, details, disabled, change }: FormProps<'tension'>) {
  const channel = (quantity: string) =>
    run.channels.find((c) => c.quantity === quantity)?.name ?? '–'
  return (
    <Section title="Construction">
      <Numbers fields={FIELDS} values={p} disabled={disabled} change={change} />
      <Fact name="Toe taken off">
        <span className="figure">{figure(details && details.modulus.origin * 100, 4)}</span> %
      </Fact>
      <Fact name="Samples in the fit">
        <span className="figure">{figure(details?.modulus.points, 0)}</span>
      </Fact>
      <Fact name="Stress from">{channel('force')} / (b × t)</Fact>
      <Fact name="Strain from">{channel('extension')} / gauge length</Fact>
    </Section>
  )
}

export const tension: ResultKind<'tension'> = { title: () => 'Stress-strain', Figure, Form }
