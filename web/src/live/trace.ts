/** How much more than its capacity a trace holds before the oldest go, all at once. */
const SLACK = 1.1

/** A channel's recent course for plots: lowest, highest and last of bins, thinned as it grows. */
export class Trace {
  readonly times: number[] = []
  readonly low: number[] = []
  readonly high: number[] = []
  readonly last: number[] = []
  /** Whether samples of the bin's block clipped: they are in none of the figures. */
  readonly clipped: boolean[] = []

  /** @param capacity bins kept; beyond it `thin` halves them, or the oldest are let go */
  constructor(
    private readonly capacity: number,
    private readonly growing: boolean,
  ) {}

  push(time: number, low: number, high: number, last: number, clipped = false): void {
    this.times.push(time)
    this.low.push(low)
    this.high.push(high)
    this.last.push(last)
    this.clipped.push(clipped)
    if (this.times.length <= this.capacity) return
    if (this.growing) this.thin()
    else if (this.times.length > this.capacity * SLACK)
      this.forget(this.times.length - this.capacity)
  }

  copy(): Trace {
    const made = new Trace(this.capacity, this.growing)
    this.columns.forEach((list, i) => (made.columns[i] as unknown[]).push(...list))
    return made
  }

  /** Put what happened before the first bin in front of it; infinite ends are clipped ones. */
  prepend(times: readonly number[], low: readonly number[], high: readonly number[]): void {
    const first = this.times[0] ?? Infinity
    const end = times.findIndex((t) => t >= first)
    const count = end < 0 ? times.length : end
    const known = (v: number) => (Number.isFinite(v) ? v : NaN)
    this.times.unshift(...times.slice(0, count))
    this.low.unshift(...low.slice(0, count).map(known))
    this.high.unshift(...high.slice(0, count).map(known))
    this.last.unshift(...high.slice(0, count).map(known))
    this.clipped.unshift(
      ...low.slice(0, count).map((v, i) => Math.abs(v) === Infinity || high[i] === Infinity),
    )
  }

  private get columns() {
    return [this.times, this.low, this.high, this.last, this.clipped] as const
  }

  private forget(count: number): void {
    for (const list of this.columns) list.splice(0, count)
  }

  /** Merge neighbours, so that a whole run always fits. */
  private thin(): void {
    const pairs = Math.floor(this.times.length / 2)
    for (let i = 0; i < pairs; i++) {
      const a = 2 * i
      this.times[i] = this.times[a + 1]!
      this.low[i] = least(this.low[a]!, this.low[a + 1]!)
      this.high[i] = -least(-this.high[a]!, -this.high[a + 1]!)
      this.last[i] = this.last[a + 1]!
      this.clipped[i] = this.clipped[a]! || this.clipped[a + 1]!
    }
    const odd = this.times.length % 2 // an odd one stays
    for (const list of this.columns) {
      if (odd) (list as unknown[])[pairs] = list[list.length - 1]
      list.length = pairs + odd
    }
  }
}

const least = (a: number, b: number): number =>
  Number.isNaN(a) ? b : Number.isNaN(b) ? a : Math.min(a, b)
