import type { ReactNode } from 'react'

import type { Channel } from '../../../api/client'
import type { DrawingProps } from '../input'
import { Sheet } from '../drawing/Sheet'
import { FullBridge } from './FullBridge'
import { HalfBridge } from './HalfBridge'
import { QuarterBridge } from './QuarterBridge'

/** The bridge as it is wired: sensor, cores in their colours, plug, and what the amplifier adds. */
export function BridgeDrawing({ channel, device }: DrawingProps<'bridge'>) {
  const Drawing = DRAWINGS[channel.wiring.circuit] ?? FullBridge
  return (
    <Sheet channel={channel} device={device} make="Amplifier" height={500}>
      <Drawing channel={channel} />
    </Sheet>
  )
}

const DRAWINGS: Record<string, (props: { channel: Channel }) => ReactNode> = {
  quarter: QuarterBridge,
  half_bending: HalfBridge,
  half_poisson: HalfBridge,
}
