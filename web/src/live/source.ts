/** Live readings of one bench. The socket opens with the first listener, closes with the last. */

import type { Schemas } from '../api/client'
import { decodeFrame, type ChannelFrame, type Frame } from './decode'
import { Trace } from './trace'

/** Seconds over which the recorder makes statistics of each channel. */
export type WindowName = '10' | '60'

export interface WindowStatistics {
  readonly mean: number
  readonly deviation: number
  readonly lowest: number
  readonly highest: number
}

export interface Reading {
  readonly value: number // SI
  readonly raw: number // of the signal, SI
  readonly clipped: boolean
  readonly mean: number // of the last second
  readonly deviation: number
  readonly lowest: number
  readonly highest: number
  readonly windows: Readonly<Record<WindowName, WindowStatistics>>
  readonly history: readonly number[]
}

export type BenchState = Schemas['BenchState']
export type Phase = BenchState['phase']
export type ProgrammeShown = NonNullable<BenchState['programme']>
export type News = Schemas['News']
type Message = Schemas['StateMessage'] | News

const BUSY: ReadonlySet<Phase> = new Set(['arming', 'beginning', 'recording', 'closing'])

/** Whether a run is recorded, about to be, or being closed. */
export const isBusy = (state: BenchState | null): boolean => state !== null && BUSY.has(state.phase)

export type Connection = 'connecting' | 'live' | 'stale' | 'refused'

const ROLLING = 6000 // bins, about two minutes
const WHOLE = 2048
const HISTORY = 40
const STALE_AFTER = 1500 // ms
const RETRY = 1000 // ms
const TOGETHER = 50 // ms, in which the frames of several devices are told at once
const NOT_SIGNED_IN = 4401

const windowsOf = (c: ChannelFrame): Reading['windows'] => ({
  10: { mean: c.mean10, deviation: c.deviation10, lowest: c.lowest10, highest: c.highest10 },
  60: { mean: c.mean60, deviation: c.deviation60, lowest: c.lowest60, highest: c.highest60 },
})

export class LiveSource {
  connection: Connection = 'connecting'
  state: BenchState | null = null
  readonly rolling = new Map<string, Trace>()
  readonly wholeRun = new Map<string, Trace>()
  private readings = new Map<string, Reading>()
  private layouts = new Map<number, readonly string[]>()
  /** Each with the channels it asked for; empty: everything. */
  private listeners = new Map<() => void, readonly string[]>()
  private changed = new Set<string>() // of which nobody has been told yet
  private tellTimer = 0
  private socket: WebSocket | null = null
  private staleTimers = new Map<number, number>() // by layout; 0 is the bench's state
  private retryTimer = 0
  private runStart: number | null = null
  /** Seconds of the running run that passed before this screen looked; taken once. */
  missed = 0
  private lastEnd = new Map<number, number>()

  constructor(
    private readonly url: string,
    private readonly onNews: (news: News) => void,
  ) {}

  /** Be told of what is new; with `keys` only of these channels, and of what concerns all. */
  subscribe = (listener: () => void, ...keys: string[]): (() => void) => {
    this.listeners.set(listener, keys)
    if (this.listeners.size === 1) this.open()
    return () => {
      this.listeners.delete(listener)
      if (this.listeners.size === 0) this.close()
    }
  }

  /** The newest reading; none while its device sends nothing: an old one never looks live. */
  reading = (key: string): Reading | undefined => this.readings.get(key)

  /** How much of the run's beginning this screen has not seen, told once per run. */
  takeMissed(): number {
    const missed = this.missed
    this.missed = 0
    return missed
  }

  /** Fill in a run's beginning; times in seconds from its start. */
  prepend(key: string, times: number[], low: number[], high: number[]): void {
    this.trace(this.wholeRun, key, true).prepend(times, low, high)
    this.tell()
  }

  /** The same as it stands now: nothing of it changes any more. */
  still(): LiveSource {
    const copy = new LiveSource(this.url, this.onNews)
    copy.connection = this.connection
    copy.state = this.state
    copy.readings = new Map(this.readings)
    for (const [key, trace] of this.rolling) copy.rolling.set(key, trace.copy())
    for (const [key, trace] of this.wholeRun) copy.wholeRun.set(key, trace.copy())
    copy.subscribe = () => () => {}
    return copy
  }

  private open(): void {
    window.clearTimeout(this.retryTimer)
    const socket = new WebSocket(this.url)
    socket.binaryType = 'arraybuffer'
    socket.onmessage = (event) => this.onMessage(event.data as ArrayBuffer | string)
    socket.onclose = (event) => {
      if (this.socket !== socket) return
      this.stopTimers()
      this.setConnection(event.code === NOT_SIGNED_IN ? 'refused' : 'connecting')
      if (event.code !== NOT_SIGNED_IN)
        this.retryTimer = window.setTimeout(() => this.open(), RETRY)
    }
    this.socket = socket
  }

  private close(): void {
    window.clearTimeout(this.retryTimer)
    window.clearTimeout(this.tellTimer)
    this.tellTimer = 0
    this.stopTimers()
    const socket = this.socket
    this.socket = null
    socket?.close()
  }

  private stopTimers(): void {
    for (const timer of this.staleTimers.values()) window.clearTimeout(timer)
  }

  private onMessage(data: ArrayBuffer | string): void {
    if (typeof data !== 'string') {
      this.onFrame(decodeFrame(data))
      return
    }
    const message = JSON.parse(data) as Message
    if ('state' in message) this.onState(message.state)
    else this.onNews(message)
  }

  private onState(state: BenchState): void {
    this.state = state
    this.layouts = new Map(state.layouts.map((l) => [l.id, l.channels]))
    this.heard()
    this.tell()
  }

  private onFrame(frame: Frame): void {
    const keys = this.layouts.get(frame.layout)
    if (!keys) return // its state is on the way
    const span = frame.endS - (this.lastEnd.get(frame.layout) ?? 0)
    const block = span > 0 && span < 1 ? span : 0.1
    this.lastEnd.set(frame.layout, frame.endS)
    this.followRun(frame, block)
    for (const channel of frame.channels) {
      const key = keys[channel.place]
      if (key === undefined) continue
      this.note(key, channel)
      this.follow(key, channel, frame, block)
    }
    this.heard()
    this.expectMore(frame.layout, () => this.forget(keys))
    this.tellSoon(keys)
  }

  private heard(): void {
    this.expectMore(0, () => this.setConnection('stale'))
    if (this.connection !== 'live') this.setConnection('live')
  }

  private expectMore(layout: number, missed: () => void): void {
    window.clearTimeout(this.staleTimers.get(layout))
    this.staleTimers.set(layout, window.setTimeout(missed, STALE_AFTER))
  }

  private forget(keys: readonly string[]): void {
    for (const key of keys) this.readings.delete(key)
    this.tell(new Set(keys))
  }

  private follow(key: string, channel: ChannelFrame, frame: Frame, block: number): void {
    const clipped = channel.clipped > 0
    for (let i = 0; i < frame.binCount; i++) {
      const before = (block * (frame.binCount - 1 - i)) / frame.binCount
      const [low, high, last] = channel.bins.subarray(3 * i, 3 * i + 3) as unknown as number[]
      const time = frame.endS - before
      this.trace(this.rolling, key, false).push(time, low!, high!, last!, clipped)
      if (frame.runS !== null)
        this.trace(this.wholeRun, key, true).push(frame.runS - before, low!, high!, last!, clipped)
    }
  }

  /** A run's traces begin with its first frame and stay after its end until the next run. */
  private followRun({ runS, endS }: Frame, block: number): void {
    if (runS !== null) {
      const start = endS - runS
      if (this.runStart === null || Math.abs(start - this.runStart) > 1) {
        this.wholeRun.clear()
        this.runStart = start
        this.missed = Math.max(0, runS - block)
      }
    } else if (this.state?.phase === 'idle') this.runStart = null
  }

  private trace(map: Map<string, Trace>, key: string, growing: boolean): Trace {
    let trace = map.get(key)
    if (!trace) map.set(key, (trace = new Trace(growing ? WHOLE : ROLLING, growing)))
    return trace
  }

  private note(key: string, channel: ChannelFrame): void {
    const { reading: value, raw, lowest, highest, mean, deviation } = channel
    const windows = windowsOf(channel)
    const history = [...(this.readings.get(key)?.history ?? []).slice(1 - HISTORY), value]
    const clipped = channel.clipped > 0
    const figures = { value, raw, clipped, lowest, highest, mean, deviation }
    this.readings.set(key, { ...figures, windows, history })
  }

  private setConnection(connection: Connection): void {
    this.connection = connection
    if (connection !== 'live') this.readings.clear()
    this.tell()
  }

  /** At once where nothing was told just before; else together with what comes meanwhile. */
  private tellSoon(keys: readonly string[]): void {
    for (const key of keys) this.changed.add(key)
    if (this.tellTimer) return
    this.tell(this.changed)
    this.changed = new Set()
    this.tellTimer = window.setTimeout(() => {
      this.tellTimer = 0
      if (this.changed.size) this.tellSoon([])
    }, TOGETHER)
  }

  private tell(keys?: ReadonlySet<string>): void {
    for (const [listener, asked] of this.listeners)
      if (!keys || asked.length === 0 || asked.some((key) => keys.has(key))) listener()
  }
}
