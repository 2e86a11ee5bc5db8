/** Units and decimals in which oneself wants to see a quantity, instead of those that everybody sees. */

export interface Shown {
  unit: string
  decimals: number
}

let mine: Readonly<Record<string, Shown>> = {}

export function learnDisplay(display: Readonly<Record<string, Shown>>): void {
  mine = display
}

/** What oneself set for a quantity. */
export const ownDisplay = (quantity: string): Shown | undefined => mine[quantity]

/** A channel as oneself sees it; `shared` is how everybody does. */
export function asShown<C extends Shown & { quantity: string; shared?: Shown }>(channel: C): C {
  const own = mine[channel.quantity]
  if (!own) return channel
  const { unit, decimals } = channel
  return { ...channel, ...own, shared: { unit, decimals } }
}
