import { memo, useEffect, useRef, type ReactNode } from 'react'

interface Props {
  id: string
  width: number
  right?: boolean
  chosen: boolean
  focused: boolean
  /** A text that is proposed, in place of what stands there now. */
  proposed?: { text: string; before: string }
  /** A text that was not taken. */
  refused?: string
  children: ReactNode
  onChoose: (extend: boolean) => void
  onEdit: () => void
}

/** One cell as it is read; what is proposed stands on marking wash over what it overwrites. */
export const Cell = memo(function Cell(props: Props) {
  const { chosen, focused, proposed, refused } = props
  return (
    <div
      id={props.id}
      role="gridcell"
      aria-selected={chosen}
      onMouseDown={(e) => props.onChoose(e.shiftKey)}
      onDoubleClick={props.onEdit}
      style={{ width: props.width }}
      className={`flex h-full flex-none items-center overflow-hidden px-2 whitespace-nowrap ${
        props.right ? 'justify-end' : ''
      } ${chosen ? 'bg-marking-wash' : ''} ${
        focused ? 'shadow-[inset_0_0_0_2px_var(--petrol)]' : ''
      }`}
    >
      {refused !== undefined ? (
        <span className="truncate border border-dashed border-marking-ink px-1 font-number text-marking-ink">
          {refused}
        </span>
      ) : proposed ? (
        <span className="truncate text-soft">
          {proposed.before && proposed.before !== proposed.text && (
            <s className="mr-1">{proposed.before}</s>
          )}
          <span className={proposed.before === proposed.text ? '' : 'border-b-2 border-marking'}>
            {proposed.text}
          </span>
        </span>
      ) : (
        <span className="truncate">{props.children}</span>
      )}
    </div>
  )
})

interface EditorProps {
  text: string
  width: number
  label: string
  onDone: (text: string, go: 'down' | 'right' | 'stay') => void
  onCancel: () => void
}

/** The cell that is being typed into: its text is its own, so that typing draws nothing else. */
export function Editor({ text, width, label, onDone, onCancel }: EditorProps) {
  const box = useRef<HTMLInputElement>(null)
  const over = useRef(false)
  useEffect(() => {
    box.current?.focus()
    box.current?.setSelectionRange(text.length, text.length)
  }, [text])
  const done = (go: 'down' | 'right' | 'stay') => {
    if (over.current) return
    over.current = true
    onDone(box.current!.value, go)
  }
  return (
    <input
      ref={box}
      defaultValue={text}
      aria-label={label}
      maxLength={60}
      style={{ width }}
      className="h-full flex-none bg-sheet px-2 shadow-[inset_0_0_0_2px_var(--petrol)] outline-none"
      onBlur={() => done('stay')}
      onKeyDown={(e) => {
        if (e.key === 'Enter') done('down')
        else if (e.key === 'Tab') done('right')
        else if (e.key === 'Escape') {
          over.current = true
          onCancel()
        } else {
          e.stopPropagation()
          return
        }
        e.preventDefault()
        if (e.key !== 'Escape') e.stopPropagation()
      }}
    />
  )
}
