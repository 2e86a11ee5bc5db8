import type { ReactNode } from 'react'

import { Fact, Segments } from '../../ui/Fact'
import { attempt } from '../../ui/notices'
import type { BridgeConditioning, FormProps, Name } from './input'

interface OneOfProps {
  label: string
  unit: string
  choices: readonly number[]
  value: number
  disabled: boolean
  onChoose: (value: number) => Promise<void>
}

/** One of the figures that a device offers. */
const OneOf = ({ label, unit, choices, value, disabled, onChoose }: OneOfProps) => (
  <Fact name={`${label}, ${unit}`}>
    <Segments
      label={label}
      options={choices.map((c) => [`${c}`, `${c}`] as const)}
      value={`${value}`}
      disabled={disabled}
      onChange={(v) => void attempt(onChoose(Number(v)))}
    />
  </Fact>
)

type Props = Pick<FormProps<Name, BridgeConditioning>, 'offers' | 'disabled' | 'set'> & {
  conditioning: BridgeConditioning
  children?: ReactNode
}

/** What an amplifier excites with and how far it measures; between the two what comes of it. */
export function Supplied(props: Props) {
  const { conditioning, offers, disabled, set, children } = props
  return (
    <>
      <OneOf
        label="Excitation"
        unit="V"
        choices={offers.excitations_v}
        value={conditioning.excitation_v}
        disabled={disabled}
        onChoose={(excitation_v) => set({ ...conditioning, excitation_v })}
      />
      {children}
      <OneOf
        label="Range"
        unit="±mV/V"
        choices={offers.ranges_mv_v}
        value={conditioning.range_mv_v}
        disabled={disabled}
        onChoose={(range_mv_v) => set({ ...conditioning, range_mv_v })}
      />
    </>
  )
}
