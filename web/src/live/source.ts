/** Live readings of one bench. The socket opens with the first listener, closes with the last. */

import { decodeFrame, type Frame } from './decode'
import { Trace } from './trace'

export interface Reading {
  readonly value: number // SI
  readonly raw: number // mV/V
  readonly clipped: boolean
  readonly lowest: number
  readonly highest: number
  readonly history: readonly number[]
}

export interface BenchState {
  phase: 'idle' | 'recording'
  run: number | null
  run_name: string
  elapsed_s: number
  missing_blocks: number
  backlog_s: number
  trouble: string
  free_bytes: number | null
  linked: boolean
  motion: string
  position_m: number | null
}

export type Connection = 'connecting' | 'live' | 'stale' | 'refused'

interface News {
  kind: string
  state?: BenchState
}

const ROLLING = 1500 // bins, about 30 s
const WHOLE = 2048
const HISTORY = 40
const STALE_AFTER = 1500 // ms
const RETRY = 1000 // ms
const NOT_SIGNED_IN = 4401

export class LiveSource {
  connection: Connection = 'connecting'
  state: BenchState | null = null
  /** Counts frames; plots redraw when it rises. */
  frames = 0
  readonly rolling = new Map<number, Trace>()
  readonly wholeRun = new Map<number, Trace>()
  private readings = new Map<number, Reading>()
  private listeners = new Set<() => void>()
  private socket: WebSocket | null = null
  private staleTimer = 0
  private retryTimer = 0
  private runStart: number | null = null
  /** Seconds of the running run that passed before this screen looked; taken once. */
  private missed = 0
  private lastEnd = 0

  constructor(
    private readonly url: string,
    private readonly onNews: (news: News) => void,
  ) {}

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener)
    if (this.listeners.size === 1) this.open()
    return () => {
      this.listeners.delete(listener)
      if (this.listeners.size === 0) this.close()
    }
  }

  /** The newest reading; none while nothing arrives, so that an old one never looks live. */
  reading = (id: number): Reading | undefined =>
    this.connection === 'live' ? this.readings.get(id) : undefined

  /** Begin lowest and highest anew, for one channel or all. */
  resetPeaks(id?: number): void {
    for (const [key, r] of this.readings)
      if (id === undefined || key === id)
        this.readings.set(key, { ...r, lowest: r.value, highest: r.value })
    this.tell()
  }

  /** How much of the run's beginning this screen has not seen, told once per run. */
  takeMissed(): number {
    const missed = this.missed
    this.missed = 0
    return missed
  }

  /** Fill in a run's beginning; times in seconds from its start. */
  prepend(id: number, times: number[], low: number[], high: number[]): void {
    this.trace(this.wholeRun, id, true).prepend(times, low, high)
    this.tell()
  }

  private open(): void {
    window.clearTimeout(this.retryTimer)
    const socket = new WebSocket(this.url)
    socket.binaryType = 'arraybuffer'
    socket.onmessage = (event) => this.onMessage(event.data as ArrayBuffer | string)
    socket.onclose = (event) => {
      if (this.socket !== socket) return
      this.setConnection(event.code === NOT_SIGNED_IN ? 'refused' : 'connecting')
      if (event.code !== NOT_SIGNED_IN)
        this.retryTimer = window.setTimeout(() => this.open(), RETRY)
    }
    this.socket = socket
  }

  private close(): void {
    window.clearTimeout(this.retryTimer)
    window.clearTimeout(this.staleTimer)
    const socket = this.socket
    this.socket = null
    socket?.close()
  }

  private onMessage(data: ArrayBuffer | string): void {
    if (typeof data !== 'string') {
      this.onFrame(decodeFrame(data))
      return
    }
    const news = JSON.parse(data) as News
    if (news.kind === 'state' && news.state) {
      this.state = news.state
      this.tell()
    } else this.onNews(news)
  }

  private onFrame(frame: Frame): void {
    const span = frame.endS - this.lastEnd
    const block = span > 0 && span < 1 ? span : 0.1
    this.lastEnd = frame.endS
    this.followRun(frame, block)
    for (const channel of frame.channels) {
      this.note(channel.id, channel.reading, channel.raw, channel.clipped)
      for (let i = 0; i < frame.binCount; i++) {
        const time = frame.endS - (block * (frame.binCount - 1 - i)) / frame.binCount
        const [low, high, last] = channel.bins.subarray(3 * i, 3 * i + 3) as unknown as number[]
        this.trace(this.rolling, channel.id, false).push(time, low!, high!, last!)
        if (this.runStart !== null)
          this.trace(this.wholeRun, channel.id, true).push(time - this.runStart, low!, high!, last!)
      }
    }
    this.frames++
    window.clearTimeout(this.staleTimer)
    this.staleTimer = window.setTimeout(() => this.setConnection('stale'), STALE_AFTER)
    this.connection = 'live'
    this.tell()
  }

  /** A run's traces begin with its first frame and stay after its end until the next run. */
  private followRun({ runS, endS }: Frame, block: number): void {
    if (runS !== null && this.runStart === null) {
      this.wholeRun.clear()
      this.runStart = endS - runS
      this.missed = Math.max(0, runS - block)
    } else if (runS === null) this.runStart = null
  }

  private trace(map: Map<number, Trace>, id: number, growing: boolean): Trace {
    let trace = map.get(id)
    if (!trace) map.set(id, (trace = new Trace(growing ? WHOLE : ROLLING, growing)))
    return trace
  }

  private note(id: number, value: number, raw: number, clipped: boolean): void {
    const before = this.readings.get(id)
    this.readings.set(id, {
      value,
      raw,
      clipped,
      lowest: Math.min(before?.lowest ?? value, value),
      highest: Math.max(before?.highest ?? value, value),
      history: [...(before?.history ?? []).slice(1 - HISTORY), value],
    })
  }

  private setConnection(connection: Connection): void {
    this.connection = connection
    this.tell()
  }

  private tell(): void {
    for (const listener of this.listeners) listener()
  }
}
