import { PlainForm } from '../generic'
import type { InputKind } from '../input'
import { VoltageDrawing } from './VoltageDrawing'

export const voltage: InputKind = { Drawing: VoltageDrawing, Form: PlainForm }
