import type { ReactNode } from 'react'

import type { Bench, Channel, Schemas } from '../../api/client'

export type Wiring = Channel['wiring']
export type Conditioning = Channel['conditioning']
export type Name = Wiring['kind']
export type BridgeConditioning = Extract<Conditioning, { kind: 'bridge' }>

/** What the channel's device can be set to. */
export type Offers = Pick<Schemas['DriverOut'], 'excitations_v' | 'ranges_mv_v' | 'carriers_hz'>

/** A channel whose wiring is of one kind. */
export type Wired<K extends Name = Name, C = Conditioning> = Channel & {
  wiring: Extract<Wiring, { kind: K }>
  conditioning: C
}

export interface DrawingProps<K extends Name = Name, C = Conditioning> {
  channel: Wired<K, C>
  device: Bench['devices'][number]
}

export interface FormProps<K extends Name = Name, C = Conditioning> {
  channel: Wired<K, C>
  offers: Offers
  disabled: boolean
  rewire: (wiring: Extract<Wiring, { kind: K }>) => Promise<void>
  set: (conditioning: C) => Promise<void>
}

/** A fault that a stand-in plays: as its protocol says it, and as a person does. */
export type Fault = readonly [string, string]

/** How one kind of input is drawn and set. */
export interface InputKind<K extends Name = Name, C = Conditioning> {
  Drawing: (props: DrawingProps<K, C>) => ReactNode
  Form: (props: FormProps<K, C>) => ReactNode
  /** The faults that a stand-in plays on it. */
  faults?: (channel: Wired<K, C>) => Fault[]
}
