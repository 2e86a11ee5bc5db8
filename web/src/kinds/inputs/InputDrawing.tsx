import { inputKind } from '.'
import type { DrawingProps } from './input'

/** How a channel's input is wired, as its kind draws it. */
export function InputDrawing(props: DrawingProps) {
  const kind = inputKind(props.channel)
  return <kind.Drawing {...props} />
}
