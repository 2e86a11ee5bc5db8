import { PlainForm } from '../generic'
import type { InputKind } from '../input'
import { PulseDrawing } from './PulseDrawing'

export const pulses: InputKind = { Drawing: PulseDrawing, Form: PlainForm }
