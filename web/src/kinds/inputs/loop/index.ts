import type { InputKind } from '../input'
import { LoopDrawing } from './LoopDrawing'
import { LoopForm } from './LoopForm'

export const loop: InputKind<'loop'> = { Drawing: LoopDrawing, Form: LoopForm }
