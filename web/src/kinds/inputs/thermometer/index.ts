import { PlainForm } from '../generic'
import type { InputKind } from '../input'
import { ThermometerDrawing } from './ThermometerDrawing'

export const thermometer: InputKind = { Drawing: ThermometerDrawing, Form: PlainForm }
