import { Dialog } from 'radix-ui'
import { useEffect, useLayoutEffect, useState, type KeyboardEvent, type ReactNode } from 'react'

import { Icon } from '../ui/Icon'
import { onOpenFindOrDo, openFindOrDo } from './findState'

/** Something that can be found: what it is, by which words, and what taking it does. */
export interface Entry {
  kind: string
  words: string
  act: () => void
}

/** Opened by Ctrl K from anywhere; what can be found is looked up only then. */
export function FindDialog({ children }: { children: (close: () => void) => ReactNode }) {
  const [open, setOpen] = useState(false)
  useLayoutEffect(() => onOpenFindOrDo(() => setOpen(true)), []) // heard as soon as seen
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-15 left-1/2 z-50 w-140 -translate-x-1/2 rounded border border-rule bg-sheet shadow-lifted"
        >
          <Dialog.Title className="sr-only">Find or do</Dialog.Title>
          {children(() => setOpen(false))}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}

/** The field in the top bar that opens it. */
export function FindButton() {
  return (
    <button
      type="button"
      onClick={openFindOrDo}
      className="flex h-7 w-80 min-w-0 items-center gap-2 rounded border border-rule-strong bg-paper px-2 text-soft"
    >
      <Icon name="find" size={14} />
      <span>Find or do</span>
      <span className="key ml-auto">Ctrl K</span>
    </button>
  )
}

/** Those that hold all the letters; whose words begin with them come first. */
function matching(entries: readonly Entry[], wanted: string[]): Entry[] {
  const begins = (e: Entry) =>
    wanted.every((w) =>
      e.words
        .toLowerCase()
        .split(/[^\p{L}\d]+/u)
        .some((x) => x.startsWith(w)),
    )
  const found = entries.filter((e) =>
    wanted.every((w) => `${e.kind} ${e.words}`.toLowerCase().includes(w)),
  )
  return [...found.filter(begins), ...found.filter((e) => !begins(e))]
}

interface SearchProps {
  entries: readonly Entry[]
  /** More entries are on their way. */
  reading: boolean
  /** Hears what is typed, where the entries are looked up by it. */
  onWords?: (words: string) => void
  close: () => void
}

/** Type, choose by the arrows, take by Enter; who was quicker than the entries need not press again. */
export function Search({ entries, reading, onWords, close }: SearchProps) {
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const [entered, setEntered] = useState(false)
  const wanted = text.toLowerCase().split(/\s+/)
  const found = matching(entries, wanted).slice(0, 12)
  const take = (entry: Entry) => {
    close()
    entry.act()
  }
  if (entered && !reading && found.length === 0) setEntered(false)
  useEffect(() => {
    if (entered && found[0]) take(found[0])
  })
  const onKey = (event: KeyboardEvent) => {
    if (event.key === 'ArrowDown') setAt(Math.min(at + 1, found.length - 1))
    else if (event.key === 'ArrowUp') setAt(Math.max(at - 1, 0))
    else if (event.key === 'Enter')
      if (found[at]) take(found[at])
      else setEntered(reading)
    else return
    event.preventDefault()
  }
  return (
    <>
      <input
        autoFocus
        value={text}
        placeholder="A stage, channel, run, sensor, project or action"
        aria-label="Find or do"
        role="combobox"
        aria-expanded
        aria-controls="found"
        aria-activedescendant={`found-${at}`}
        onChange={(e) => {
          setText(e.target.value)
          onWords?.(e.target.value.slice(0, 120))
          setAt(0)
          setEntered(false)
        }}
        onKeyDown={onKey}
        className="h-11 w-full border-b border-rule bg-transparent px-4 text-large outline-none"
      />
      <ul id="found" role="listbox" className="p-1.5">
        {found.map((entry, i) => (
          <li
            key={entry.kind + entry.words}
            id={`found-${i}`}
            role="option"
            aria-selected={i === at}
            onClick={() => take(entry)}
            onMouseMove={() => setAt(i)}
            className={`flex h-8 cursor-pointer items-center gap-3 rounded px-2.5 ${i === at ? 'bg-petrol-wash' : ''}`}
          >
            <span className="w-14 text-small text-soft">{entry.kind}</span>
            {entry.words}
          </li>
        ))}
        {found.length === 0 && (
          <li className="px-2.5 py-2 text-soft">
            {reading ? 'Reading what there is.' : 'Nothing is called that.'}
          </li>
        )}
      </ul>
    </>
  )
}
