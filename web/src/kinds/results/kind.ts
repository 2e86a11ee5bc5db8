import type { ReactNode } from 'react'

import type { Derivation, Run } from '../../api/client'
import type { Columns, Parameters as Any } from '../../api/results'

export type Name = Any['kind']
export type Parameters<K extends Name = Name> = Extract<Any, { kind: K }>
export type Details<K extends Name = Name> = Extract<
  NonNullable<Derivation['details']>,
  { kind: K }
>

/** Some parameters with their new values; the server checks them. */
export type Change = Partial<Any> | Record<string, number | null>

export interface FigureProps<K extends Name = Name> {
  run: Run
  parameters: Parameters<K>
  details: Details<K>
  columns: Columns
  change: (to: Change) => Promise<void>
}

export interface FormProps<K extends Name = Name> {
  run: Run
  parameters: Parameters<K>
  details: Details<K> | null
  disabled: boolean
  change: (to: Change) => Promise<void>
}

/** How the Derive page shows one kind of result. */
export interface ResultKind<K extends Name = Name> {
  title: (parameters: Parameters<K>, run: Run) => string
  Figure: (props: FigureProps<K>) => ReactNode
  Form: (props: FormProps<K>) => ReactNode
}

export const channelName = (run: Run, key: string): string =>
  run.channels.find((c) => c.key === key)?.name ?? 'a channel of another run'
