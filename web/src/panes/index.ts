import { bars } from './bars'
import { cycle } from './cycle'
import { digits } from './digits'
import { mohr } from './mohr'
import { notes } from './notes'
import type { Pane } from './pane'
import { ruler } from './ruler'
import { spectrum } from './spectrum'
import { statistics } from './statistics'
import { steps } from './steps'
import { strips } from './strips'
import { table } from './table'
import { turns } from './turns'
import { xy } from './xy'

/** The kinds of pane; a new one adds a folder and a line here. */
const PANES: Record<string, unknown> = {
  strips,
  xy,
  turns,
  steps,
  digits,
  ruler,
  bars,
  table,
  statistics,
  spectrum,
  cycle,
  mohr,
  notes,
}

/** Add a kind; gives what takes it away again. */
export function addPane<Options>(name: string, pane: Pane<Options>): () => void {
  PANES[name] = pane
  return () => delete PANES[name]
}

/** Names and titles of all panes, as lists offer them. */
export const paneTitles = (): [string, string][] =>
  Object.entries(PANES).map(([name, pane]) => [name, (pane as Pane).title])

export const paneOf = (name: string): Pane | undefined => PANES[name] as Pane | undefined
