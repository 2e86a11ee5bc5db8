import { Dialog } from 'radix-ui'
import { useCallback, useEffect, useRef, useState } from 'react'
import { useNavigate } from 'react-router'

import * as actions from '../api/actions'
import { useLive } from '../live/LiveProvider'
import { isBusy } from '../live/source'
import { useEscEsc } from './escEsc'
import { openFindOrDo } from './findState'
import { STAGES } from './Line'
import type { StageContext } from './stage'

const HELP: readonly (readonly [string, string])[] = [
  ['Ctrl K', 'Find or do'],
  ['G then 1 to 5', 'Go to a stage'],
  ['1 to 9', 'Choose a channel of the bench strip'],
  ['Z', 'Zero the chosen channel'],
  ['P', 'Reset lowest and highest, for everybody'],
  ['C', 'Check the wiring of the chosen channel, or of all'],
  ['F7', 'Zero all channels, or the chosen one'],
  ['F8', 'Start or stop recording'],
  ['N', 'Return the actuator and name the next specimen'],
  ['Esc Esc', 'Emergency stop'],
  ['Ctrl Z, Ctrl Shift Z', 'Undo, redo'],
  ['?', 'These keys'],
]
const SEQUENCE = 900 // ms between G and its figure

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement && !!target.closest('input, textarea, select, [contenteditable]')

/** The keys of every page. They never fire while typing, except Esc Esc. */
export function Keys(context: StageContext) {
  const [help, setHelp] = useState(false)
  const go = useNavigate()
  const live = useLive()
  const last = useRef({ key: '', at: 0 })
  const benchId = context.bench.id
  useEscEsc(useCallback(() => void actions.emergencyStop(benchId), [benchId]))
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.repeat) return // held down, with a glove on it: the second F8 would stop
      const again = performance.now() - last.current.at < SEQUENCE ? last.current.key : ''
      last.current = { key: event.key, at: performance.now() }
      const action = actionOf(event, again, context, { go, live, showHelp: () => setHelp(true) })
      if (!action) return
      event.preventDefault()
      action()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [context, go, live])
  return (
    <Dialog.Root open={help} onOpenChange={setHelp}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 w-[520px] -translate-1/2 rounded border border-rule bg-sheet p-5 shadow-[0_6px_20px_rgba(0,0,0,.25)]"
        >
          <Dialog.Title className="mb-2">Keys</Dialog.Title>
          {HELP.map(([key, words]) => (
            <div key={key} className="flex min-h-7 items-center border-t border-rule">
              <span className="w-44 flex-none">
                <span className="key">{key}</span>
              </span>
              {words}
            </div>
          ))}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}

interface Reach {
  go: (path: string) => unknown
  live: ReturnType<typeof useLive>
  showHelp: () => void
}

/** The action a key stands for on this page, or null. */
function actionOf(
  event: KeyboardEvent,
  before: string,
  { setup, bench, chosen, choose }: StageContext,
  { go, live, showHelp }: Reach,
): (() => void) | null {
  const { key } = event
  if (event.ctrlKey || event.metaKey) {
    if (key.toLowerCase() === 'k') return openFindOrDo
    if (key.toLowerCase() === 'z' && !isTyping(event.target))
      return () => void actions.undo(setup.id, event.shiftKey)
    return null
  }
  if (isTyping(event.target) || event.altKey || document.querySelector('[role=dialog]')) return null
  const digit = /^[1-9]$/.test(key) ? Number(key) : 0
  if (digit && before.toLowerCase() === 'g' && STAGES[digit - 1])
    return () => void go(`/setups/${setup.id}/${STAGES[digit - 1]}`)
  const channel = setup.channels[digit - 1]
  if (channel) return () => choose(channel.id)
  const wanted = chosen === null ? actions.toZero(setup) : [chosen]
  if (key.toLowerCase() === 'c') {
    const channels = chosen === null ? setup.channels.map((c) => c.id) : [chosen]
    return () => void actions.checkWiring(setup.id, channels)
  }
  if (key === 'F7') return () => void actions.zero(setup.id, wanted)
  if (key === 'F8') return () => void actions.startOrStop(setup, isBusy(live.state))
  if (key.toLowerCase() === 'z' && chosen !== null)
    return () => void actions.zero(setup.id, [chosen])
  if (key.toLowerCase() === 'p') {
    const channels = setup.channels.filter((c) => c.id === chosen).map((c) => c.key)
    return () => void actions.resetPeaks(bench.id, channels)
  }
  if (key.toLowerCase() === 'n' && bench.yoke_mine && actions.isAway(setup) && !isBusy(live.state))
    return () => void actions.returnForNext(setup)
  if (key === '?') return showHelp
  return null
}
