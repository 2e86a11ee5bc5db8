import { useState } from 'react'

import { useBenchState, useIsStill, useLive } from '../../live/LiveProvider'
import { useMarks, type Mark } from '../../plots/marks'
import { X_FIGURES } from '../../plots/Plot'
import { readablesOf } from '../../readable'
import { Button } from '../../ui/Button'
import { Segments } from '../../ui/Fact'
import { lookOf } from '../colours'
import { endsOf, withEnds } from '../ends'
import type { Pane, PaneProps } from '../pane'
import type { Span } from '../traces'
import { SharedAxes, unitsOf } from './SharedAxes'
import { Strip } from './Strip'
import { useBeginning } from './beginning'

const NO_MARKS: readonly Mark[] = []
const MIN_STRIP = 60 // px; more strips than fit scroll

/** `rollingS`: seconds before now that are shown while nothing is recorded. */
type Options = { rollingS: number; together: boolean }

/** Channels over time, each in a strip of its own or all on shared axes. */
function Strips({ setup, recording, channels, options, change }: PaneProps<Options>) {
  const { rollingS, together } = options
  useBeginning(setup.channels)
  const [chosen, setSpan] = useState<Span | null>(null)
  const [zoom, setZoom] = useState<readonly [number, number] | null>(null)
  const live = useLive()
  const still = useIsStill()
  const marks = useMarks(useBenchState()?.run ?? null)
  // A run that has just ended stays in view until its plots are told otherwise.
  const span = chosen ?? (recording || live.wholeRun.size ? 'whole' : 'rolling')
  const nameRoom = Math.max(0, ...channels.flatMap((c) => [c.name.length, c.unit.length]))
  const within = still || span === 'whole' ? zoom : null
  const common = {
    span,
    rollingS,
    zoom: within,
    onZoom: still || span === 'whole' ? (a: number, b: number) => setZoom([a, b]) : undefined,
    marks: span === 'whole' ? marks : NO_MARKS,
  }
  return (
    <>
      <div className="@container flex-none">
        <div className="flex h-9 items-center gap-2.5 pr-26 pl-4 whitespace-nowrap @max-md:pr-1">
          <h2 className="truncate">
            {span === 'rolling' ? `Last ${rollingS} seconds` : 'Whole run'}
          </h2>
          {within && (
            <Button size={24} onClick={() => setZoom(null)}>
              All of it
            </Button>
          )}
          <span className="ml-auto flex gap-1.5 @max-xs:hidden">
            <Segments
              label="Time shown"
              dense
              options={[
                ['rolling', 'Rolling'],
                ['whole', 'Whole run'],
              ]}
              value={span}
              onChange={(wanted) => {
                setSpan(wanted)
                setZoom(null)
              }}
            />
            <span className="@max-md:hidden">
              <Segments
                label="Axes"
                dense
                options={[
                  ['apart', 'Stacked'],
                  ['together', 'Shared'],
                ]}
                value={together ? 'together' : 'apart'}
                onChange={(wanted) => change({ together: wanted === 'together' })}
              />
            </span>
          </span>
        </div>
      </div>
      {together ? (
        <SharedAxes {...common} setup={setup} channels={channels} />
      ) : (
        <div
          tabIndex={0}
          role="group"
          aria-label="Channels over time"
          className="flex min-h-0 flex-1 flex-col overflow-y-auto"
        >
          {channels.map((c, i) => {
            const last = i === channels.length - 1
            const axis = last ? X_FIGURES : 0
            return (
              <div
                key={`${c.key}-${span}-${c.unit}`}
                className="relative flex grow"
                style={{ flexBasis: axis, minHeight: MIN_STRIP + axis, contentVisibility: 'auto' }}
              >
                <Strip
                  {...common}
                  channel={c}
                  colour={lookOf(setup, c.key).colour}
                  first={i === 0}
                  last={last}
                  nameRoom={nameRoom}
                  ends={endsOf(options, c.key)}
                  onEnds={(ends) => change(withEnds(c.key, ends) as Partial<Options>)}
                />
              </div>
            )
          })}
        </div>
      )}
    </>
  )
}

export const strips: Pane<Options> = {
  title: 'Strips over time',
  fits: () => true,
  room: 64,
  proposes: readablesOf,
  lacks: (_, channels) =>
    channels.length ? '' : 'Wire a channel, or choose one, and its course shows here.',
  options: { rollingS: 30, together: false },
  fields: ({ together }, channels) => [
    { name: 'rollingS', label: 'Rolling', unit: 's', decimals: 0 },
    ...(together && unitsOf(channels).length <= 2
      ? [{ name: 'together', label: 'On shared axes', isSwitch: true as const }]
      : []),
  ],
  Component: Strips,
}
