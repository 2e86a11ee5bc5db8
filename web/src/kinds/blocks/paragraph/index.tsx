import { EditableText } from '../../../ui/Editable'
import type { BlockFormProps, BlockKind, BlockOf } from '../block'

function Form({ block, disabled, onSave }: BlockFormProps<BlockOf<'paragraph'>>) {
  return (
    <EditableText
      label="Text"
      value={block.text ?? ''}
      disabled={disabled}
      onSave={(text) => onSave({ ...block, text })}
    />
  )
}

export const paragraph: BlockKind<BlockOf<'paragraph'>> = { Form }
