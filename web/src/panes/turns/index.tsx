import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import type uPlot from 'uplot'

import type { Setup } from '../../api/client'
import { fetchKept } from '../../api/kept'
import { useRuns } from '../../api/queries'
import { formOf } from '../../kinds/form'
import { KEEP_RULES } from '../../kinds/keepRules'
import { Plot, padded } from '../../plots/Plot'
import { readablesOf, type Readable } from '../../readable'
import type { Pane, PaneProps } from '../pane'
import { cyclesOf } from './columns'

/** A keep rule of cycles; its stream has the name of its kind, since it is the first of it. */
interface CycleRule {
  kind: string
  channel: string
  every: number
}

const LOOK_EVERY = 3000 // ms, while they grow
const PIXELS = 600

function ruleOf(setup: Setup): CycleRule | undefined {
  for (const rule of setup.keep_rules) {
    const of = formOf(KEEP_RULES, rule.kind).cyclesOf?.(rule)
    if (of) return { kind: rule.kind, ...of }
  }
}

const channelOf = (setup: Setup): Readable | undefined =>
  readablesOf(setup).find((c) => c.key === ruleOf(setup)?.channel && c.measured)

export const turns: Pane = {
  title: 'Turning points over the test',
  fits: () => false,
  room: 0,
  proposes: () => [],
  lacks: (setup) =>
    channelOf(setup) ? '' : 'A keep rule of turning points gives what is shown here: add one.',
  options: {},
  Component: Turns,
}

function Turns({ setup, recording }: Pick<PaneProps, 'setup' | 'recording'>) {
  const [rule, channel] = [ruleOf(setup), channelOf(setup)]
  const run = useRuns(setup.id).rows.at(-1)?.id
  return rule && channel ? (
    <OfRun key={run} run={run} rule={rule} channel={channel} setup={setup} grows={recording} />
  ) : null
}

interface Props {
  run: number | undefined
  rule: CycleRule
  channel: Readable
  setup: Setup
  grows: boolean
}

/** Lowest and highest of each cycle of a run, as far as it has come. */
function OfRun({ run, rule, channel, setup, grows }: Props) {
  const kept = useQuery({
    queryKey: ['runs', 'kept', run, rule.kind, channel.key],
    queryFn: ({ signal }) => fetchKept(run!, rule.kind, channel.key, PIXELS, signal),
    enabled: run !== undefined,
    refetchInterval: grows ? LOOK_EVERY : false,
    retry: false,
  }).data
  const made = useMemo<uPlot.AlignedData>(
    () => (kept ? cyclesOf(kept, rule.every, channel.unit) : [[], [], []]),
    [kept, rule.every, channel.unit],
  )
  const data = useCallback(() => made, [made])
  const planned = setup.paper?.cycles ?? 0
  const curves = useMemo(
    () => [
      { name: 'lowest', colour: '--curve-2' },
      { name: 'highest', colour: '--curve-2' },
    ],
    [],
  )
  return (
    <Plot
      curves={curves}
      data={data}
      xName="Cycles"
      xUnit=""
      yName={`${channel.name} turning points`}
      yUnit={channel.unit}
      xRange={() => [0, Math.max(planned, made[0].at(-1) ?? 0, 1)]}
      yRange={padded}
      label={`Lowest and highest of each cycle of ${channel.name}`}
    />
  )
}
