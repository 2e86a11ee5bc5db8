import { ChannelNumbers, type ChannelFigure } from '../ChannelNumbers'
import { Choice } from '../../ui/Choice'
import { EditableNumber } from '../../ui/Editable'
import type { FieldsProps, Guard } from '../form'

const ACTIONS = [
  ['hold', 'holds'],
  ['unload', 'goes to no load'],
  ['stop', 'ends the run'],
  ['warn', 'warns'],
] as const

/** Which channel, its figures in its unit, for how long, and what happens then. */
export function ChannelFields<G extends Guard>(
  props: FieldsProps<G> & { figures: readonly ChannelFigure<G>[]; moves?: boolean },
) {
  const { spec, disabled, onSave, moves = true } = props
  const put = (fields: object) => onSave({ ...spec, ...fields })
  return (
    <>
      <ChannelNumbers {...props} />
      <EditableNumber
        label="For"
        value={(spec.debounce_s ?? 0) * 1e3}
        unit="ms"
        decimals={0}
        disabled={disabled}
        onSave={(ms) => put({ debounce_s: ms / 1e3 })}
      />
      <Choice
        label="Then it"
        value={spec.action ?? 'hold'}
        options={ACTIONS.filter(([action]) => moves || action !== 'unload')}
        disabled={disabled}
        onChoose={(action) => put({ action })}
      />
    </>
  )
}
