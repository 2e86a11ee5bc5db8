import type { ReactNode } from 'react'

import type { Channel } from '../../api/client'
import { BridgeDrawing } from './bridges/BridgeDrawing'
import type { DrawingProps } from './drawing'
import { LoopDrawing } from './LoopDrawing'
import { PulseDrawing } from './PulseDrawing'
import { TappedDrawing } from './TappedDrawing'
import { ThermometerDrawing } from './ThermometerDrawing'
import { VoltageDrawing } from './VoltageDrawing'

/** The drawing of each kind of wiring. */
const DRAWINGS: Record<Channel['wiring']['kind'], (props: DrawingProps) => ReactNode> = {
  bridge: BridgeDrawing,
  potentiometer: TappedDrawing,
  inductive_half: TappedDrawing,
  pulses: PulseDrawing,
  loop: LoopDrawing,
  thermometer: ThermometerDrawing,
  voltage: VoltageDrawing,
  digital: () => <p className="p-8 text-soft">The device gives this quantity as a number.</p>,
}

export function WiringDrawing(props: DrawingProps) {
  const Drawing = DRAWINGS[props.channel.wiring.kind]
  return <Drawing {...props} />
}
