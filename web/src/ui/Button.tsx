import type { ButtonHTMLAttributes, ReactNode } from 'react'

type Look = 'plain' | 'go' | 'stop'
type Size = 24 | 28 | 36 | 44 | 56

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: Look
  size?: Size
  shortcut?: string
  /** What the action waits for: drawn as a dashed outline that says it. */
  waits?: string
  /** The harmless first step of that, which a press on the waiting button does. */
  first?: () => void
  children: ReactNode
}

const LOOKS: Record<Look, string> = {
  plain: 'border-rule-strong bg-sheet text-ink hover:bg-paper font-number',
  go: 'border-petrol bg-petrol text-on-petrol font-name',
  stop: 'border-signal bg-signal text-on-signal font-name',
}
const SIZES: Record<Size, string> = {
  24: 'h-6 px-2 text-small',
  28: 'h-7 px-2.5 text-body',
  36: 'h-9 px-4 text-lead',
  44: 'h-11 px-3 text-lead',
  56: 'h-14 px-3 text-title',
}

export function Button({
  look = 'plain',
  size = 28,
  shortcut,
  waits,
  first,
  children,
  ...rest
}: Props) {
  const waiting = 'border-dashed border-rule-strong bg-transparent font-number'
  return (
    <button
      type="button"
      {...rest}
      onClick={waits ? first : rest.onClick}
      disabled={rest.disabled || (!!waits && !first)}
      className={`inline-flex items-center gap-2 rounded border whitespace-nowrap disabled:cursor-default ${SIZES[size]} ${
        waits ? `${waiting} ${first ? 'text-ink hover:bg-paper' : 'text-soft'}` : LOOKS[look]
      } ${rest.disabled && !waits ? 'opacity-50' : ''} ${rest.className ?? ''}`}
    >
      <span>{waits ?? children}</span>
      {shortcut && !waits && <span className="key ml-auto">{shortcut}</span>}
    </button>
  )
}
