/** A channel's recent course for plots: lowest, highest and last of bins, thinned as it grows. */
export class Trace {
  readonly times: number[] = []
  readonly low: number[] = []
  readonly high: number[] = []
  readonly last: number[] = []

  /** @param capacity bins kept; beyond it `thin` halves them, or the oldest are let go */
  constructor(
    private readonly capacity: number,
    private readonly growing: boolean,
  ) {}

  push(time: number, low: number, high: number, last: number): void {
    this.times.push(time)
    this.low.push(low)
    this.high.push(high)
    this.last.push(last)
    if (this.times.length <= this.capacity) return
    if (this.growing) this.thin()
    else this.forget(this.times.length - this.capacity)
  }

  /** Put what happened before the first bin in front of it. */
  prepend(times: readonly number[], low: readonly number[], high: readonly number[]): void {
    const first = this.times[0] ?? Infinity
    const end = times.findIndex((t) => t >= first)
    const count = end < 0 ? times.length : end
    this.times.unshift(...times.slice(0, count))
    this.low.unshift(...low.slice(0, count))
    this.high.unshift(...high.slice(0, count))
    this.last.unshift(...high.slice(0, count))
  }

  private forget(count: number): void {
    for (const list of [this.times, this.low, this.high, this.last]) list.splice(0, count)
  }

  /** Merge neighbours, so that a whole run always fits. */
  private thin(): void {
    const pairs = Math.floor(this.times.length / 2)
    for (let i = 0; i < pairs; i++) {
      const a = 2 * i
      this.times[i] = this.times[a + 1]!
      this.low[i] = Math.min(this.low[a]!, this.low[a + 1]!)
      this.high[i] = Math.max(this.high[a]!, this.high[a + 1]!)
      this.last[i] = this.last[a + 1]!
    }
    for (const list of [this.times, this.low, this.high, this.last])
      list.splice(pairs, list.length - pairs, ...list.slice(2 * pairs)) // an odd one stays
  }
}
