import { useQuery } from '@tanstack/react-query'
import { Popover } from 'radix-ui'
import { useId, useRef, useState, type KeyboardEvent } from 'react'

import type { Setup } from '../api/client'
import { formulaQuery, type CheckedFormula } from '../api/computed'
import { Icon } from '../ui/Icon'

interface Props {
  setup: Setup
  /** Of the computed channel that is changed; empty for a new one. */
  channel: string
  text: string
  label: string
  disabled?: boolean
  onText: (text: string) => void
  /** Enter, once the formula means something. */
  onEnter: () => void
}

// All letters of a formula are one figure (ch) wide; the field has 0.5rem of padding.
const under = (place: readonly [number, number]) => ({
  left: `calc(${place[0]}ch + 0.5rem)`,
  width: `${Math.max(1, place[1] - place[0])}ch`,
})

/** A formula with the unit under each part; an error's sentence begins at its wavy line. */
export function FormulaField({ setup, channel, text, label, disabled, onText, onEnter }: Props) {
  const [cursor, setCursor] = useState(0)
  const field = useRef<HTMLInputElement>(null)
  const found = useQuery(formulaQuery(setup, text, Math.min(cursor, text.length), channel)).data
  const [open, setOpen] = useState(false)
  const said = useId()
  const known = text.trim() ? found : undefined
  const offered = open ? (known?.suggestions ?? []) : []
  const put = (first: number, last: number, by: string) => {
    onText(text.slice(0, first) + by + text.slice(last))
    setCursor(first + by.length)
    requestAnimationFrame(() =>
      field.current?.setSelectionRange(first + by.length, first + by.length),
    )
  }
  const mend = () => {
    if (known?.proposal && known.place) put(known.place[0], known.place[1], known.proposal)
    else if (offered[0]) put(offered[0].begins, cursor, offered[0].text)
  }
  const onKey = (event: KeyboardEvent) => {
    if (event.key === 'Enter' && known && !known.problem) onEnter()
    if (event.key === 'Escape') setOpen(false)
    if (event.key !== 'Tab' || event.shiftKey || !(known?.proposal || offered.length)) return
    event.preventDefault()
    mend()
  }
  return (
    <div className="min-w-0 flex-1">
      <Popover.Root open={offered.length > 0}>
        <Popover.Anchor asChild>
          <input
            ref={field}
            aria-label={label}
            aria-invalid={!!known?.problem}
            aria-describedby={said}
            value={text}
            disabled={disabled}
            spellCheck={false}
            autoComplete="off"
            onChange={(e) => {
              onText(e.target.value)
              setCursor(e.target.selectionStart ?? e.target.value.length)
              setOpen(true)
            }}
            onSelect={(e) => setCursor(e.currentTarget.selectionStart ?? 0)}
            onBlur={() => setOpen(false)}
            onKeyDown={onKey}
            className="figure h-7 w-full rounded border border-rule-strong bg-sheet px-2 text-body disabled:bg-paper"
          />
        </Popover.Anchor>
        <Popover.Portal>
          <Popover.Content
            role="listbox"
            aria-label="Suggestions"
            side="top"
            align="start"
            sideOffset={4}
            onOpenAutoFocus={(e) => e.preventDefault()}
            className="z-30 w-130 rounded border border-rule bg-sheet p-1 shadow-lifted"
          >
            {offered.map((s) => (
              <button
                key={s.text}
                type="button"
                role="option"
                aria-selected={s === offered[0]}
                tabIndex={-1}
                onMouseDown={(e) => {
                  e.preventDefault() // the field keeps the focus
                  put(s.begins, cursor, s.text)
                }}
                className="flex h-7 w-full items-center gap-3 rounded px-2 text-left hover:bg-petrol-wash"
              >
                <span className="figure">{s.text}</span>
                <span className="ml-auto text-small text-soft">{s.words}</span>
              </button>
            ))}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <div id={said} className="figure relative h-5 px-2 text-body">
        {known && !known.problem && <Units found={known} />}
        {known?.problem && <Problem found={known} onMend={mend} />}
      </div>
    </div>
  )
}

/** Brackets under the outermost parts, with the unit of each. */
function Units({ found }: { found: CheckedFormula }) {
  const outermost = found.parts.filter(
    (p) =>
      p.unit &&
      !found.parts.some((q) => q !== p && q.place[0] <= p.place[0] && q.place[1] >= p.place[1]),
  )
  return (
    <>
      {outermost.map(({ place, unit }) => (
        <span
          key={place[0]}
          className="absolute top-0 h-1 border-x border-b border-soft"
          style={under(place)}
        >
          <span className="absolute inset-x-0 top-0.5 text-center text-note leading-4 whitespace-nowrap text-soft">
            {unit}
          </span>
        </span>
      ))}
    </>
  )
}

function Problem({ found, onMend }: { found: CheckedFormula; onMend: () => void }) {
  const { left, width } = under(found.place ?? [0, 0])
  return (
    <>
      <span
        aria-hidden
        className="absolute -top-1.5 h-1.5 border-b-2 border-dotted border-signal"
        style={{ left, width }}
      />
      <span role="alert" className="absolute top-0" style={{ left: `min(${left}, 40%)` }}>
        <span className="block font-sans text-small leading-5 whitespace-nowrap text-signal">
          {found.problem}{' '}
          {found.proposal ? (
            <button type="button" className="text-ink underline" onClick={onMend}>
              Write {found.proposal} <span className="key">Tab</span>
            </button>
          ) : (
            <span className="text-soft">{found.hint}</span>
          )}
        </span>
      </span>
    </>
  )
}

/** What the whole formula gives. */
export function Gives({ setup, channel, text }: Pick<Props, 'setup' | 'channel' | 'text'>) {
  const found = useQuery(formulaQuery(setup, text, text.length, channel)).data
  if (!text.trim() || !found || found.problem) return null
  return (
    <span className="flex flex-none items-center gap-1 text-small text-moss">
      <Icon name="tick" size={13} /> gives {found.unit || 'a number'}
    </span>
  )
}
