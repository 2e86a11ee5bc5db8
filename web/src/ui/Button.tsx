import type { ButtonHTMLAttributes, ReactNode } from 'react'
import { tv, type VariantProps } from 'tailwind-variants/lite'

const button = tv({
  base: 'inline-flex items-center gap-2 rounded border whitespace-nowrap disabled:cursor-default',
  variants: {
    look: {
      plain: 'border-rule-strong bg-sheet font-number text-ink hover:bg-paper',
      go: 'border-petrol bg-petrol font-name text-on-petrol',
      stop: 'border-signal bg-signal font-name text-on-signal',
      /** Nothing can be done with it yet, or only a first step. */
      waiting: 'border-dashed border-rule-strong bg-transparent font-number text-soft',
      first: 'border-dashed border-rule-strong bg-transparent font-number text-ink hover:bg-paper',
    },
    size: {
      24: 'h-6 px-2 text-small',
      28: 'h-7 px-2.5 text-body',
      36: 'h-9 px-4 text-lead',
      44: 'h-11 px-3 text-lead',
      56: 'h-14 px-3 text-title',
    },
    faded: { true: 'opacity-50' },
  },
})

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: 'plain' | 'go' | 'stop'
  size?: VariantProps<typeof button>['size']
  shortcut?: string
  /** What the action waits for: drawn as a dashed outline that says it. */
  waits?: string
  /** The harmless first step of that, which a press on the waiting button does. */
  first?: () => void
  children: ReactNode
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
  return (
    <button
      type="button"
      {...rest}
      onClick={waits ? first : rest.onClick}
      disabled={rest.disabled || (!!waits && !first)}
      className={button({
        look: waits ? (first ? 'first' : 'waiting') : look,
        size,
        faded: rest.disabled && !waits,
        className: rest.className,
      })}
    >
      <span>{waits ?? children}</span>
      {shortcut && !waits && <span className="key ml-auto">{shortcut}</span>}
    </button>
  )
}
