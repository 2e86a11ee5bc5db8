import { Dialog } from 'radix-ui'
import { useCallback, useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { useMatch, useNavigate } from 'react-router'

import * as actions from '../api/actions'
import { useLive } from '../live/LiveProvider'
import { isBusy } from '../live/source'
import { useEscEsc } from './escEsc'
import { PAGE_KEYS, useFindKey } from './pageKeys'
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
  ['F6', 'Dry run: play everything, keep nothing'],
  ['F', 'Far view, and back'],
  ['[ and ]', 'Page before, page after'],
  ['S', 'Have the plots stand still, or follow again'],
  ['Alt arrows, M', 'Move the pane in focus, make it the largest'],
  ['F8', 'Start or stop recording'],
  ['F9', 'Pause, or go on'],
  ['F10', 'Name this instant of the run'],
  ['N', 'Return the actuator and name the next specimen'],
  ['Esc Esc', 'Emergency stop'],
  ['Ctrl Z, Ctrl Shift Z', 'Undo, redo'],
  ['?', 'These keys'],
]
const SEQUENCE = 900 // ms between G and its figure
const FIGURES = '1,2,3,4,5,6,7,8,9'

/** The keys of every page. They never fire while typing, except Ctrl K and Esc Esc. */
export function Keys(context: StageContext) {
  const [help, setHelp] = useState(false)
  const go = useNavigate()
  const isFar = !!useMatch('/setups/:setupId/far')
  const live = useLive()
  const prefixed = useRef(-Infinity) // when G was pressed
  const { setup, bench, choose } = context
  useFindKey()
  useEscEsc(useCallback(() => void actions.emergencyStop(bench.id), [bench.id]))
  useHotkeys('shift+?,?', () => setHelp(true), PAGE_KEYS)
  useHotkeys('f', () => void go(`/setups/${setup.id}/${isFar ? 'record' : 'far'}`), PAGE_KEYS)
  useHotkeys('g', () => void (prefixed.current = performance.now()), PAGE_KEYS)
  useHotkeys(
    FIGURES,
    (_, { hotkey }) => {
      const figure = Number(hotkey) - 1
      const channel = setup.channels[figure]
      const toStage = performance.now() - prefixed.current < SEQUENCE && STAGES[figure]
      prefixed.current = -Infinity
      if (toStage) void go(`/setups/${setup.id}/${toStage}`)
      else if (channel) choose(channel.id)
    },
    PAGE_KEYS,
  )
  useHotkeys(
    Object.keys(ACTIONS),
    (event, { hotkey }) => {
      event.preventDefault()
      ACTIONS[hotkey]?.(context, isBusy(live.state))
    },
    PAGE_KEYS,
  )
  return (
    <Dialog.Root open={help} onOpenChange={setHelp}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 w-130 -translate-1/2 rounded border border-rule bg-sheet p-5 shadow-lifted"
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

type Action = (context: StageContext, busy: boolean) => unknown

/** The chosen channel, or those that `all` names. */
const wanted = ({ chosen }: StageContext, all: number[]) => (chosen === null ? all : [chosen])

const ACTIONS: Record<string, Action> = {
  'mod+z': ({ setup }) => actions.undo(setup.id, false),
  'mod+shift+z': ({ setup }) => actions.undo(setup.id, true),
  c: (context) => {
    const all = context.setup.channels.map((c) => c.id)
    return actions.checkWiring(context.setup.id, wanted(context, all))
  },
  z: ({ setup, chosen }) => chosen !== null && actions.zero(setup.id, [chosen]),
  f7: (context) => {
    const { setup } = context
    return actions.zero(setup.id, wanted(context, actions.toZero(setup)))
  },
  f6: ({ setup }, busy) => !busy && actions.startOrStop(setup, busy, true),
  f8: ({ setup }, busy) => actions.startOrStop(setup, busy),
  p: ({ setup, bench, chosen }) => {
    const channels = setup.channels.filter((c) => c.id === chosen)
    return actions.resetPeaks(
      bench.id,
      channels.map((c) => c.key),
    )
  },
  n: ({ setup, bench }, busy) =>
    bench.yoke_mine && actions.isAway(setup) && !busy && actions.returnForNext(setup),
}
