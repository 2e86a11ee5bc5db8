import type { ReactNode } from 'react'

import { insideOf } from '../../bench-strip/BenchStrip'
import { useReading } from '../../live/LiveProvider'
import { readablesOf, type Readable } from '../../readable'
import { ComputedSign, InputSign } from '../../ui/Diamond'
import { figure } from '../../ui/format'
import { Reading } from '../../ui/Reading'
import { fromSi } from '../../ui/units'
import type { Pane, PaneProps } from '../pane'

/** What a setup reads, what is computed first. */
function LargeReadings({ setup }: PaneProps) {
  const channels = readablesOf(setup)
  return (
    <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="Readings">
      {[...channels.filter((c) => c.computed), ...channels.filter((c) => c.measured)].map((c) => (
        <Digits key={c.key} channel={c} />
      ))}
    </div>
  )
}

export const digits: Pane = {
  title: 'Digits',
  fits: () => true,
  shows: ({ channels }) => channels.length > 0,
  options: undefined,
  Component: LargeReadings,
}

/** A channel's reading. */
function Digits({ channel: { key, name, unit, decimals, measured: c } }: { channel: Readable }) {
  const sign = c ? (
    <InputSign signal={c.signal} size={14} active={c.active_arms} inside={insideOf(c)} />
  ) : (
    <ComputedSign size={14} />
  )
  return (
    <LargeReading of={key} unit={unit} decimals={decimals} sign={sign}>
      {name}
    </LargeReading>
  )
}

/** A reading to be read from two metres. */
function LargeReading(props: {
  of: string
  unit: string
  decimals: number
  sign: ReactNode
  children: ReactNode
}) {
  const reading = useReading(props.of)
  const show = (v: number | undefined) =>
    figure(v === undefined ? null : fromSi(v, props.unit), props.decimals)
  return (
    <div className="border-b border-rule px-3.5 py-2">
      <div className="flex items-center gap-1.5">
        {props.sign}
        <b className="font-strong">{props.children}</b>
        <span className="figure ml-auto text-small text-soft">
          {show(reading?.lowest)} <span className="font-sans">to</span> {show(reading?.highest)}
        </span>
      </div>
      <div className="grid grid-cols-[1fr_64px] items-baseline gap-2">
        <span className={`text-right ${reading?.clipped ? 'text-signal' : ''}`}>
          {reading?.clipped ? (
            <b className="text-clipped leading-11.5 font-strong">clipped</b>
          ) : (
            <Reading
              className="text-reading leading-11.5 font-number"
              text={show(reading?.value)}
            />
          )}
        </span>
        <span className="text-large text-soft">{props.unit}</span>
      </div>
    </div>
  )
}
