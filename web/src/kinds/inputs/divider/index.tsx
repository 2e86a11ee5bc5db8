import type { BridgeConditioning, InputKind } from '../input'
import { DividerDrawing } from './DividerDrawing'
import { DividerForm } from './DividerForm'

export const potentiometer: InputKind<'potentiometer', BridgeConditioning> = {
  Drawing: (props) => <DividerDrawing {...props} coils={false} />,
  Form: (props) => (
    <DividerForm {...props} coils={false} rewire={(w) => props.rewire(w as never)} />
  ),
}

export const inductiveHalf: InputKind<'inductive_half', BridgeConditioning> = {
  Drawing: (props) => <DividerDrawing {...props} coils />,
  Form: (props) => <DividerForm {...props} coils rewire={(w) => props.rewire(w as never)} />,
}
