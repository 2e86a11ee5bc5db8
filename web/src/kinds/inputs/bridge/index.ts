import type { BridgeConditioning, InputKind } from '../input'
import { BridgeDrawing } from './BridgeDrawing'
import { BridgeForm } from './BridgeForm'
import { faultsOf } from './faults'

export const bridge: InputKind<'bridge', BridgeConditioning> = {
  Drawing: BridgeDrawing,
  Form: BridgeForm,
  faults: faultsOf,
}
