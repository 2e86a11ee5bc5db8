/** Which channels a pane on a page shows. */

import type { Setup } from '../api/client'
import { readablesOf, type Readable } from '../readable'
import type { PlacedPane } from './page'
import type { Pane } from './pane'

/** Channels of a pane: those it was given that are still there, else those it proposes. */
export function channelsOf(kind: Pane, pane: PlacedPane, setup: Setup): readonly Readable[] {
  if (pane.channels.length === 0) return kind.proposes(setup)
  const all = readablesOf(setup)
  return pane.channels.flatMap(({ key }) => all.find((c) => c.key === key) ?? [])
}

/** Names of those that it was given and that the setup no longer has. */
export const goneFrom = ({ channels }: PlacedPane, setup: Setup): string[] => {
  const there = new Set(readablesOf(setup).map((c) => c.key))
  return channels.filter(({ key }) => !there.has(key)).map(({ name }) => name)
}
