import type { ReactNode } from 'react'

import type { Setup } from '../api/client'
import type { Readable } from '../readable'

export interface PaneProps<Options = unknown> {
  setup: Setup
  recording: boolean
  options: Options
}

/** A way to look at readings, live and afterwards. */
export interface Pane<Options = unknown> {
  title: string
  /** Whether it can show a channel. */
  fits: (channel: Readable) => boolean
  /** Whether it has anything to show of a setup. */
  shows: (setup: Setup, options: Options) => boolean
  /** What people may set of it, as it begins. */
  options: Options
  Component: (props: PaneProps<Options>) => ReactNode
}
