import { Popover } from 'radix-ui'
import { useHotkeys } from 'react-hotkeys-hook'

import { useMay } from '../api/queries'
import type { Setup } from '../api/client'
import { PAGE_KEYS } from '../frame/pageKeys'
import { Button } from '../ui/Button'
import { EditableText } from '../ui/Editable'
import { MAX_PAGES, pageFor } from './page'
import type { Pages } from './usePages'

interface Props {
  pages: Pages
  setup: Setup
  frozen: boolean
  onFreeze: () => void
}

/** Which page is shown, what may be done with pages, and whether the plots stand still. */
export function PageBar({ pages, setup, frozen, onFreeze }: Props) {
  const turn = (by: number) =>
    pages.turnTo((pages.at + by + pages.pages.length) % pages.pages.length)
  useHotkeys('bracketleft', () => turn(-1), { ...PAGE_KEYS, useKey: false })
  useHotkeys('bracketright', () => turn(1), { ...PAGE_KEYS, useKey: false })
  useHotkeys('s', onFreeze, PAGE_KEYS)
  return (
    <div className="flex h-9 flex-none items-stretch border-b border-rule bg-paper pr-2 whitespace-nowrap">
      <div role="tablist" aria-label="Pages" className="flex min-w-0 overflow-x-auto">
        {pages.pages.map(({ name }, i) => (
          <button
            key={name}
            type="button"
            role="tab"
            aria-selected={i === pages.at}
            className={`border-r border-rule px-3.5 text-body ${i === pages.at ? 'bg-sheet font-name shadow-chosen-above' : 'text-soft'}`}
            onClick={() => pages.turnTo(i)}
          >
            {name}
          </button>
        ))}
      </div>
      <span className="ml-auto flex items-center gap-2">
        {pages.problem && (
          <span role="alert" className="truncate text-small text-signal" title={pages.problem}>
            {pages.problem}
          </span>
        )}
        <Button size={24} shortcut="S" aria-pressed={frozen} onClick={onFreeze}>
          {frozen ? 'Follow again' : 'Stand still'}
        </Button>
        <PageMenu pages={pages} setup={setup} />
      </span>
    </div>
  )
}

function PageMenu({ pages, setup }: { pages: Pages; setup: Setup }) {
  const may = useMay('change the specimen')
  const { shown } = pages
  const names = pages.pages.map(({ name }) => name)
  const fresh = (stem: string) => {
    let name = stem
    for (let i = 2; names.includes(name); i++) name = `${stem} ${i}`
    return name
  }
  const full = names.length >= MAX_PAGES
  return (
    <Popover.Root>
      <Popover.Trigger className="h-6 rounded border border-rule-strong bg-sheet px-2 text-small">
        Pages
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          aria-label="Pages"
          className="z-40 flex w-72 flex-col gap-1.5 rounded border border-rule bg-sheet px-3 py-2 shadow-lifted"
        >
          <EditableText
            label="Name of this page"
            value={shown.name}
            onSave={async (name) => pages.change({ ...shown, name: name.trim() || shown.name })}
          />
          <Button
            size={24}
            disabled={full}
            onClick={() => pages.add({ ...pageFor(setup), name: fresh('Page') })}
          >
            New page
          </Button>
          <Button
            size={24}
            disabled={full}
            onClick={() => pages.add({ ...shown, name: fresh(shown.name) })}
          >
            This page again
          </Button>
          <Button size={24} disabled={names.length === 1} onClick={pages.remove}>
            Take this page away
          </Button>
          <p className="border-t border-rule pt-1.5 text-small leading-4 text-soft">
            {pages.isOwn
              ? 'You arranged these pages for yourself.'
              : 'These pages are what everybody sees.'}{' '}
            What you change is yours alone.
          </p>
          {pages.isOwn && (
            <Button size={24} onClick={pages.dropOwn}>
              Back to everybody’s pages
            </Button>
          )}
          {pages.isOwn && may && (
            <Button size={24} onClick={pages.keepForEverybody}>
              Give these to everybody
            </Button>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
