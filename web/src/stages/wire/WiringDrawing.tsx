import type { Bench, Channel, Schemas } from '../../api/client'
import { BridgeDrawing } from './BridgeDrawing'

type Kind = Schemas['ChannelOut']['wiring']['kind']
interface Props {
  channel: Channel
  device: Bench['devices'][number]
}

/** The drawing of each kind of wiring. */
const DRAWINGS: Partial<Record<Kind, (props: Props) => React.ReactNode>> = {
  bridge: BridgeDrawing,
}

export function WiringDrawing(props: Props) {
  const Drawing = DRAWINGS[props.channel.wiring.kind]
  return Drawing ? <Drawing {...props} /> : null
}
