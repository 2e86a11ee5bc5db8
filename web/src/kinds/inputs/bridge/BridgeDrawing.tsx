import type { ReactNode } from 'react'

import type { BridgeConditioning, DrawingProps } from '../input'
import { Sheet } from '../drawing/Sheet'
import { FullBridge } from './FullBridge'
import { HalfBridge } from './HalfBridge'
import { QuarterBridge } from './QuarterBridge'
import type { Bridge } from './shared'

/** The bridge as it is wired: sensor, cores in their colours, plug, and what the amplifier adds. */
export function BridgeDrawing({ channel, device }: DrawingProps<'bridge', BridgeConditioning>) {
  const Drawing = DRAWINGS[channel.wiring.circuit] ?? FullBridge
  return (
    <Sheet channel={channel} device={device} make="Amplifier" height={500}>
      <Drawing channel={channel} />
    </Sheet>
  )
}

const DRAWINGS: Record<string, (props: { channel: Bridge }) => ReactNode> = {
  quarter: QuarterBridge,
  half_bending: HalfBridge,
  half_poisson: HalfBridge,
}
