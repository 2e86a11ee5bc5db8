import { useQuery } from '@tanstack/react-query'

import type { Setup } from '../../api/client'
import { stepsQuery, useRuns } from '../../api/queries'
import { formOf } from '../../kinds/form'
import { LEGS } from '../../kinds/legs'
import { readablesOf } from '../../readable'
import { figure } from '../../ui/format'
import { fromSi } from '../../ui/units'
import type { Pane, PaneProps } from '../pane'

const sweeps = ({ motion }: Setup): boolean =>
  'legs' in motion && motion.legs.some((leg) => formOf(LEGS, leg.kind!).averages)

export const steps: Pane = {
  title: 'Table of steps',
  fits: () => false,
  room: 0,
  proposes: () => [],
  lacks: (setup) =>
    sweeps(setup) ? '' : 'A programme with steps fills this table: add such a leg.',
  options: {},
  Component: Steps,
}

/** The averages of each step of the newest run, as far as it has come. */
function Steps({ setup, recording }: Pick<PaneProps, 'setup' | 'recording'>) {
  const run = useRuns(setup.id).rows.at(-1)?.id
  const rows = useQuery(stepsQuery(run, recording)).data ?? []
  const channels = readablesOf(setup)
  return (
    <section aria-label="Table of steps" className="min-h-0 overflow-auto px-4 py-2">
      <h2 className="pb-1">Steps</h2>
      <table className="w-full text-small whitespace-nowrap">
        <thead>
          <tr className="border-b border-rule-strong text-left">
            <th className="sticky left-0 bg-sheet py-1 pr-3 font-strong">Step</th>
            {channels.map((c) => (
              <th key={c.key} className="py-1 pl-3 text-right font-strong">
                {c.name} <span className="font-normal text-soft">{c.unit}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.to_s} className="border-b border-rule">
              <td className="sticky left-0 bg-sheet py-1 pr-3">{row.words}</td>
              {channels.map((c) => {
                const mean = row.averages.find((a) => a.channel === c.key)?.mean ?? null
                return (
                  <td key={c.key} className="figure py-1 pl-3 text-right">
                    {figure(mean === null ? null : fromSi(mean, c.unit), c.decimals)}
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length === 0 && <p className="py-2 text-small text-soft">No step is over yet.</p>}
    </section>
  )
}
