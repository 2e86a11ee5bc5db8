import { useCallback, useEffect, useRef, useState } from 'react'

import type { Setup } from '../../api/client'
import { wireSensor } from '../../api/actions'
import { addFromSheet, moveChannels, readPlugs, type Plug } from '../../api/plugs'
import { Button } from '../../ui/Button'
import { Icon } from '../../ui/Icon'
import { attempt } from '../../ui/notices'
import { UndoRedo } from './ChannelInspector'

interface Props {
  setup: Setup
  plugs: Plug[]
  onRead: (plugs: Plug[]) => void
  onClose: () => void
}

/** What the plugs say, and what is proposed: each is accepted or not, one by one. */
export function Plugs({ setup, plugs, onRead, onClose }: Props) {
  const [busy, setBusy] = useState(false)
  const told = plugs.filter((p) => p.state !== 'none')
  const moved = told.filter((p) => p.proposal === 'move')
  const seen = useRef(setup.version)
  const readAgain = useCallback(async () => {
    setBusy(true)
    const found = await attempt(readPlugs(setup.id))
    if (found) onRead(found)
    setBusy(false)
  }, [setup.id, onRead])
  // What is proposed depends on the setup: a change of it, here or elsewhere, is looked at anew.
  useEffect(() => {
    if (seen.current === setup.version) return
    seen.current = setup.version
    void readAgain()
  }, [setup.version, readAgain])
  const run = async (action: Promise<unknown>) => {
    setBusy(true)
    await attempt(action)
    setBusy(false)
  }
  const moves = moved.map((p) => ({ channel_id: p.channel_id!, input_id: p.input_id }))
  return (
    <section className="col col-span-2" aria-label="What the plugs say">
      <div className="bar">
        <h1>What the plugs say</h1>
        <span className="truncate text-soft">{summary(told)}</span>
        <UndoRedo setup={setup} />
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        <table className="grid-table">
          <thead>
            <tr>
              <th className="pl-4!">Input</th>
              <th>The plug says</th>
              <th>Wired here</th>
              <th>Proposed</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {told.map((p) => (
              <tr
                key={p.input_id}
                className={`h-9 ${p.proposal ? 'bg-marking-wash' : ''}`}
                aria-label={`Plug at ${p.input_label}`}
              >
                <td className="figure pl-4!">{p.input_label}</td>
                <td>
                  <Says plug={p} />
                </td>
                <td className="text-soft">{p.wired || 'nothing'}</td>
                <td>{proposed(setup, p)}</td>
                <td className="pr-4! text-right">
                  <Accept
                    setup={setup}
                    plug={p}
                    busy={busy}
                    onRun={(action) => void run(action)}
                    onKnown={() => void readAgain()}
                  />
                </td>
              </tr>
            ))}
            {!told.length && (
              <tr>
                <td colSpan={5} className="p-4! text-soft">
                  No plug at this bench has a memory. Choose sensors from the library.
                </td>
              </tr>
            )}
          </tbody>
        </table>
      </div>
      <div className="flex flex-none items-center gap-3 border-t border-rule bg-paper px-4 py-2">
        {moves.length > 1 && (
          <Button
            look="go"
            size={36}
            disabled={busy}
            onClick={() => void run(moveChannels(setup.id, moves))}
          >
            Move all {moves.length} with their sensors
          </Button>
        )}
        <Button size={36} disabled={busy} onClick={() => void run(Promise.resolve(true))}>
          {busy ? 'Reading' : 'Read the plugs again'}
        </Button>
        <Button size={36} onClick={onClose}>
          Back to the drawing
        </Button>
      </div>
    </section>
  )
}

function summary(told: Plug[]): string {
  const count = (proposal: string) => told.filter((p) => p.proposal === proposal).length
  const parts = [
    [count('move'), 'moved'],
    [count('wire'), 'not wired yet'],
    [count('add'), 'new to the library'],
    [told.filter((p) => p.problem).length, 'to look at'],
  ] as const
  const said = parts.filter(([n]) => n).map(([n, words]) => `${n} ${words}`)
  return said.length ? said.join(', ') : 'every sensor is where it is wired'
}

function Says({ plug: p }: { plug: Plug }) {
  if (p.state === 'blank') return <span className="text-soft">a blank memory</span>
  if (p.problem)
    return (
      <span className="text-marking-ink">
        <Icon name="warn" size={12} /> {p.serial} {p.problem}
      </span>
    )
  return (
    <>
      <b className="font-strong">{p.serial}</b> <span className="text-soft">{p.words}</span>
    </>
  )
}

function proposed(setup: Setup, p: Plug): string {
  const channel = setup.channels.find((c) => c.id === p.channel_id)
  if (p.proposal === 'move' && channel)
    return `${channel.name} moved here from ${channel.input_label}`
  if (p.proposal === 'wire') return 'a sensor of the library, not wired'
  if (p.proposal === 'add') return `a ${p.words} that the library does not know`
  return ''
}

interface AcceptProps {
  setup: Setup
  plug: Plug
  busy: boolean
  onRun: (action: Promise<unknown>) => void
  /** The library has learnt of a sensor. */
  onKnown: () => void
}

function Accept({ setup, plug: p, busy, onRun, onKnown }: AcceptProps) {
  const channel = setup.channels.find((c) => c.id === p.channel_id)
  if (p.proposal === 'move' && channel)
    return (
      <Button
        size={24}
        disabled={busy}
        onClick={() =>
          onRun(moveChannels(setup.id, [{ channel_id: channel.id, input_id: p.input_id }]))
        }
      >
        Move {channel.name} to {p.input_label}
      </Button>
    )
  if (p.proposal === 'wire') return <WireHere setup={setup} plug={p} busy={busy} onRun={onRun} />
  if (p.proposal === 'add')
    return (
      <Button size={24} disabled={busy} onClick={() => onRun(addFromSheet(p.memory).then(onKnown))}>
        Add {p.serial} to the library
      </Button>
    )
  return null
}

/** The name is the next free one of what the sensor measures; it can be changed afterwards. */
function WireHere({ setup, plug: p, busy, onRun }: Omit<AcceptProps, 'onKnown'>) {
  const name = setup.free_names[p.quantity] ?? p.serial.slice(0, 30)
  const body = { input_id: p.input_id, sensor_id: p.sensor_id!, name }
  return (
    <Button size={24} disabled={busy} onClick={() => onRun(wireSensor(setup.id, body))}>
      Wire it as {name}
    </Button>
  )
}
