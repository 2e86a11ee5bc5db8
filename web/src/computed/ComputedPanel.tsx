import { useState } from 'react'

import type { Setup } from '../api/client'
import { addComputed, changeComputed, removeComputed, type Computed } from '../api/computed'
import { useMay } from '../api/queries'
import { Button } from '../ui/Button'
import { ComputedSign } from '../ui/Diamond'
import { attempt } from '../ui/notices'
import { FormulaField, Gives } from './FormulaField'
import { useComputed } from './useComputed'

/** Channels given by formulas: each with its value, and a line for one more. */
export function ComputedPanel({ setup }: { setup: Setup }) {
  const may = useMay('wire channels')
  return (
    <section
      aria-label="Computed channels"
      className="max-h-60 overflow-y-auto overflow-x-hidden border-t border-rule-strong bg-paper px-4 py-2"
    >
      {setup.computed.map((c) => (
        <Line key={c.key} setup={setup} channel={c} may={may} />
      ))}
      {may && <NewLine setup={setup} />}
    </section>
  )
}

const VALUE = 'flex h-7 w-44 flex-none items-center justify-end gap-1.5'

function Line({ setup, channel: c, may }: { setup: Setup; channel: Computed; may: boolean }) {
  const [text, setText] = useState<string | null>(null)
  const shown = text ?? c.formula
  const changed = text !== null && text !== c.formula
  const save = async () => {
    if (changed && (await attempt(changeComputed(setup.id, c.key, { formula: shown }))))
      setText(null)
  }
  return (
    <div className="flex items-start gap-3">
      <span className="flex h-7 w-36 flex-none items-center gap-2 font-strong">
        <ComputedSign size={14} /> <span className="truncate">{c.name}</span>
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
      <span className={VALUE}>
        <Value channel={c} />
      </span>
      <span className="flex w-28 flex-none justify-end">
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

function Value({ channel: c }: { channel: Computed }) {
  const { reading, problem, show } = useComputed(c)
  if (problem)
    return (
      <span className="text-small text-signal" title={problem}>
        not computed
      </span>
    )
  return (
    <>
      <span className="figure text-lead font-number">
        {reading && !Number.isNaN(reading.value) ? show(reading.value) : '– – –'}
      </span>
      <span className="text-small text-soft">{c.unit}</span>
    </>
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
      <span className="flex h-7 w-36 flex-none items-center gap-2">
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
      <span className={VALUE}>
        <Gives setup={setup} channel="" text={text} />
      </span>
      <span className="flex w-28 flex-none justify-end">
        <Button look={ready ? 'go' : 'plain'} disabled={!ready} onClick={() => void add()}>
          Add
        </Button>
      </span>
    </div>
  )
}
