import { Popover } from 'radix-ui'
import { useState } from 'react'

import type { Setup } from '../api/client'
import { readablesOf } from '../readable'
import { Button } from '../ui/Button'
import { Choice } from '../ui/Choice'
import { EditableNumber } from '../ui/Editable'
import { Icon } from '../ui/Icon'
import { Toggle } from '../ui/Toggle'
import { paneOf, paneTitles } from '.'
import {
  added,
  changed,
  MAX_PANES,
  paneAt,
  panesOf,
  placed,
  removed,
  type Page,
  type Place,
  type Side,
} from './page'
import type { OptionField, OptionValue, Pane, PaneOptions } from './pane'
import { channelsOf } from './shown'

interface Props {
  page: Page
  at: Place
  setup: Setup
  change: (page: Page) => void
  onNudge: (side: Side) => void
}

const SIDES: readonly (readonly [Side, string])[] = [
  ['left', 'Left'],
  ['right', 'Right'],
  ['above', 'Up'],
  ['below', 'Down'],
]

/** What a pane shows, which channels and how, and where it stands: all of it by keys too. */
export function PaneSettings({ page, at, setup, change, onNudge }: Props) {
  const [open, setOpen] = useState(false)
  const pane = paneAt(page, at)!
  const kind = paneOf(pane.pane)
  const full = panesOf(page).length >= MAX_PANES
  const more = (side: Side) => change(added(page, at, side, placed('digits')))
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label="Settings of this pane"
        className="grid size-7 place-items-center"
      >
        <Icon name="settings" />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          aria-label="Settings of this pane"
          className="z-40 max-h-[80vh] w-72 overflow-y-auto rounded border border-rule bg-sheet px-3 py-2 shadow-lifted"
        >
          <Choice
            label="Shows"
            value={pane.pane}
            options={paneTitles()}
            onChoose={async (name) => change(changed(page, at, { pane: name, options: {} }))}
          />
          {kind && kind.room > 0 && (
            <Channels page={page} at={at} setup={setup} change={change} kind={kind} />
          )}
          {kind && <Fields page={page} at={at} setup={setup} change={change} kind={kind} />}
          <div className="flex flex-wrap gap-1.5 border-t border-rule py-2">
            <span className="w-full text-small text-soft">Move</span>
            {SIDES.map(([side, words]) => (
              <Button
                key={side}
                size={24}
                onClick={() => {
                  setOpen(false)
                  onNudge(side)
                }}
              >
                {words}
              </Button>
            ))}
          </div>
          <div className="flex flex-wrap gap-1.5 border-t border-rule pt-2">
            <Button size={24} disabled={full} onClick={() => more('right')}>
              Pane beside
            </Button>
            <Button size={24} disabled={full} onClick={() => more('below')}>
              Pane below
            </Button>
            <Button
              size={24}
              disabled={panesOf(page).length === 1}
              onClick={() => change(removed(page, at))}
            >
              Take away
            </Button>
            {full && <p className="text-small text-soft">A page holds {MAX_PANES} panes.</p>}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

type OfKind = Omit<Props, 'onNudge'> & { kind: Pane }

/** Ticked ones are shown, in the order in which they were ticked. */
function Channels({ page, at, setup, change, kind }: OfKind) {
  const pane = paneAt(page, at)!
  const shown = channelsOf(kind, pane, setup)
  const toggle = (key: string) => {
    const all = readablesOf(setup)
    const keys = shown.map((c) => c.key)
    const wanted = keys.includes(key) ? keys.filter((k) => k !== key) : [...keys, key]
    const channels = wanted
      .slice(-kind.room)
      .flatMap((k) => all.find((c) => c.key === k) ?? [])
      .map((c) => ({ key: c.key, name: c.name }))
    change(changed(page, at, { channels }))
  }
  return (
    <fieldset className="border-t border-rule py-1.5">
      <legend className="sr-only">Channels</legend>
      {readablesOf(setup)
        .filter((c) => kind.fits(c))
        .map(({ key, name, unit }) => {
          const place = shown.findIndex((c) => c.key === key)
          return (
            <label key={key} className="flex h-6 items-center gap-2 text-small">
              <input type="checkbox" checked={place >= 0} onChange={() => toggle(key)} />
              {name} <span className="text-soft">{unit}</span>
              {place >= 0 && kind.room < 4 && (
                <span className="figure ml-auto text-soft">{place + 1}</span>
              )}
            </label>
          )
        })}
      {pane.channels.length > 0 && (
        <Button
          size={24}
          className="mt-1"
          onClick={() => change(changed(page, at, { channels: [] }))}
        >
          What suits
        </Button>
      )}
    </fieldset>
  )
}

function Fields({ page, at, setup, change, kind }: OfKind) {
  const pane = paneAt(page, at)!
  const options = { ...kind.options, ...pane.options } as PaneOptions
  const set = (name: string, value: OptionValue) =>
    change(changed(page, at, { options: { ...pane.options, [name]: value } as PaneOptions }))
  return kind
    .fields?.(options, channelsOf(kind, pane, setup))
    .map((field) => (
      <Field key={field.name} field={field} value={options[field.name] ?? null} onSet={set} />
    ))
}

interface FieldProps {
  field: OptionField
  value: OptionValue
  onSet: (name: string, value: OptionValue) => void
}

function Field({ field, value, onSet }: FieldProps) {
  const { name, label } = field
  if ('choices' in field)
    return (
      <Choice
        label={label}
        value={String(value)}
        options={field.choices}
        onChoose={async (chosen) => onSet(name, chosen)}
      />
    )
  if ('isSwitch' in field)
    return (
      <div className="flex min-h-7 items-center justify-between border-t border-rule text-small text-soft">
        {label}
        <Toggle label={label} on={value === true} onChange={(on) => onSet(name, on)} />
      </div>
    )
  return (
    <EditableNumber
      label={label}
      value={typeof value === 'number' ? value : null}
      unit={field.unit}
      decimals={field.decimals}
      onSave={async (number) => onSet(name, number)}
      onClear={field.mayBeEmpty ? async () => onSet(name, null) : undefined}
    />
  )
}
