import type { ReactNode } from 'react'

import type { Setup } from '../api/client'
import type { Readable } from '../readable'

/** What people may set of a pane: kept with its page. */
export type OptionValue = number | string | boolean | null
export type PaneOptions = Record<string, OptionValue>

export interface PaneProps<Options = PaneOptions> {
  setup: Setup
  recording: boolean
  /** Those it was given, in their order; else those it proposes. */
  channels: readonly Readable[]
  options: Options
  change: (options: Partial<Options>) => void
}

/** An option as the pane's settings offer it: a choice, a switch, or a number in its unit. */
export type OptionField =
  | { name: string; label: string; choices: readonly (readonly [string, string])[] }
  | { name: string; label: string; isSwitch: true }
  | { name: string; label: string; unit: string; decimals: number; mayBeEmpty?: boolean }

/** A way to look at readings, live and afterwards. */
export interface Pane<Options = PaneOptions> {
  title: string
  /** Whether it can show a channel. */
  fits: (channel: Readable) => boolean
  /** How many channels it has room for; none: it takes no channels. */
  room: number
  /** The channels that it begins with. */
  proposes: (setup: Setup) => readonly Readable[]
  /** Why it has nothing to show of these channels, in a sentence; empty: it has. */
  lacks: (setup: Setup, channels: readonly Readable[]) => string
  /** What people may set of it, as it begins. */
  options: Options
  fields?: (options: Options, channels: readonly Readable[]) => readonly OptionField[]
  Component: (props: PaneProps<Options>) => ReactNode
}
