import { useState } from 'react'

import type { Setup } from '../api/client'
import { addComputed, changeComputed, removeComputed, type Computed } from '../api/computed'
import { useMay } from '../api/queries'
import { Button } from '../ui/Button'
import { ComputedSign } from '../ui/Diamond'
import { Icon } from '../ui/Icon'
import { attempt } from '../ui/notices'
import { FormulaField, Gives } from './FormulaField'
import { useComputed } from './useComputed'

interface PanelProps {
  setup: Setup
  /** Whether it begins open. */
  open?: boolean
  /** Whether readings show beside the formulas. */
  live?: boolean
}

/** Channels given by formulas: each with its value, and a line for one more. */
export function ComputedPanel({ setup, open = true, live = true }: PanelProps) {
  const [shown, show] = useState(open)
  const names = setup.computed.map((c) => c.name).join(', ')
  return (
    <section aria-label="Computed channels" className="border-t border-rule-strong bg-paper">
      <button
        type="button"
        aria-expanded={shown}
        onClick={() => show(!shown)}
        className="flex h-7 w-full items-center gap-2 px-4 text-left text-small"
      >
        <ComputedSign size={12} />
        <b className="font-strong">Computed channels</b>
        <span className="truncate text-soft">{shown ? '' : names || 'none yet'}</span>
        <span className="ml-auto text-soft">
          <Icon name={shown ? 'down' : 'up'} size={11} />
        </span>
      </button>
      {shown && <Lines setup={setup} live={live} />}
    </section>
  )
}

function Lines({ setup, live }: { setup: Setup; live: boolean }) {
  const may = useMay('wire channels')
  return (
    <div className="max-h-42 overflow-x-hidden overflow-y-auto px-4 pb-1">
      {setup.computed.map((c) => (
        <Line key={c.key} setup={setup} channel={c} may={may} live={live} />
      ))}
      {may && <NewLine setup={setup} />}
      {may && setup.computed_offers.length > 0 && (
        <div className="flex flex-wrap gap-2 py-1 pl-6">
          {setup.computed_offers.map(({ name, formula }) => (
            <Button
              key={name}
              size={24}
              onClick={() => void attempt(addComputed(setup.id, name, formula))}
            >
              Add {name} = <span className="figure">{formula}</span>
            </Button>
          ))}
        </div>
      )}
    </div>
  )
}

const VALUE = 'flex h-7 flex-none items-center justify-end gap-1.5'

function Line({ setup, channel: c, may, live }: Shown & { live: boolean }) {
  const [text, setText] = useState<string | null>(null)
  const shown = text ?? c.formula
  const changed = text !== null && text !== c.formula
  const save = async () => {
    if (changed && (await attempt(changeComputed(setup.id, c.key, { formula: shown }))))
      setText(null)
  }
  return (
    <div className="flex items-start gap-3">
      <span className="flex h-7 w-32 flex-none items-center gap-2 font-strong">
        <ComputedSign size={14} />
        <Name setup={setup} channel={c} may={may} />
        <span className="ml-auto text-soft">=</span>
      </span>
      <FormulaField
        setup={setup}
        channel={c.key}
        text={shown}
        label={`Formula of ${c.name}`}
        disabled={!may}
        onText={setText}
        onEnter={() => void save()}
      />
      <span className={`${VALUE} ${live ? 'w-56' : ''}`}>
        {live && <Reading channel={c} />}
        <Display setup={setup} channel={c} may={may} />
      </span>
      <span className="flex w-22 flex-none justify-end">
        {changed ? (
          <Button look="go" shortcut="Enter" onClick={() => void save()}>
            Save
          </Button>
        ) : (
          may && (
            <Button onClick={() => void attempt(removeComputed(setup.id, c.key))}>Remove</Button>
          )
        )}
      </span>
    </div>
  )
}

interface Shown {
  setup: Setup
  channel: Computed
  may: boolean
}

/** The name of a computed channel, saved when it is left. */
function Name({ setup, channel: c, may }: Shown) {
  const [draft, setDraft] = useState<string | null>(null)
  const save = async () => {
    const name = draft?.trim()
    if (!name || name === c.name) return setDraft(null)
    if (await attempt(changeComputed(setup.id, c.key, { name }))) setDraft(null)
  }
  return (
    <input
      aria-label={`Name of ${c.name}`}
      value={draft ?? c.name}
      disabled={!may}
      maxLength={30}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={() => void save()}
      onKeyDown={(e) => {
        if (e.key === 'Enter') void save()
        if (e.key === 'Escape') setDraft(null)
      }}
      className="w-full min-w-0 truncate bg-transparent font-strong"
    />
  )
}

const PLACES = [0, 1, 2, 3, 4, 5, 6]

function Reading({ channel: c }: { channel: Computed }) {
  const { reading, problem, show } = useComputed(c)
  if (problem)
    return (
      <span className="text-small text-signal" title={problem}>
        not computed
      </span>
    )
  return (
    <span className="figure text-lead font-number">
      {reading && !Number.isNaN(reading.value) ? show(reading.value) : '– – –'}
    </span>
  )
}

/** The unit and the decimals with which a computed channel is shown. */
function Display({ setup, channel: c, may }: Shown) {
  const change = (to: Parameters<typeof changeComputed>[2]) =>
    void attempt(changeComputed(setup.id, c.key, to))
  return (
    <>
      <Select
        label={`Unit of ${c.name}`}
        options={c.units.map((unit) => [unit, unit || '1'] as const)}
        value={c.unit}
        disabled={!may}
        onChange={(unit) => change({ unit })}
      />
      <Select
        label={`Decimals of ${c.name}`}
        options={PLACES.map((n) => [String(n), `.${'0'.repeat(n)}`] as const)}
        value={String(c.decimals)}
        disabled={!may}
        onChange={(n) => change({ decimals: Number(n) })}
      />
    </>
  )
}

function Select(props: {
  label: string
  options: readonly (readonly [string, string])[]
  value: string
  disabled: boolean
  onChange: (value: string) => void
}) {
  return (
    <select
      aria-label={props.label}
      value={props.value}
      disabled={props.disabled}
      onChange={(e) => props.onChange(e.target.value)}
      className="field-sizing-content max-w-20 bg-transparent text-small text-soft disabled:appearance-none"
    >
      {props.options.map(([value, words]) => (
        <option key={value} value={value}>
          {words}
        </option>
      ))}
    </select>
  )
}

function NewLine({ setup }: { setup: Setup }) {
  const [name, setName] = useState('')
  const [text, setText] = useState('')
  const ready = name.trim() !== '' && text.trim() !== ''
  const add = async () => {
    if (!ready || !(await attempt(addComputed(setup.id, name.trim(), text)))) return
    setName('')
    setText('')
  }
  return (
    <div className="flex items-start gap-3">
      <span className="flex h-7 w-32 flex-none items-center gap-2">
        <ComputedSign size={14} />
        <input
          aria-label="Name of a new computed channel"
          placeholder="new channel"
          value={name}
          maxLength={30}
          onChange={(e) => setName(e.target.value)}
          className="w-full min-w-0 border-b border-dotted border-soft bg-transparent font-strong"
        />
        <span className="text-soft">=</span>
      </span>
      <FormulaField
        setup={setup}
        channel=""
        text={text}
        label="Formula of a new computed channel"
        onText={setText}
        onEnter={() => void add()}
      />
      <span className={`${VALUE} min-w-20`}>
        <Gives setup={setup} channel="" text={text} />
      </span>
      <span className="flex w-22 flex-none justify-end">
        <Button look={ready ? 'go' : 'plain'} disabled={!ready} onClick={() => void add()}>
          Add
        </Button>
      </span>
    </div>
  )
}
