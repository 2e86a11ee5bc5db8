import { ProblemError } from './client'

/** Columns that lie evenly in time: lowest and highest in SI, infinite where samples clipped. */
export interface Stretch {
  readonly start: number // s of the run
  readonly step: number // s
  readonly low: Float32Array
  readonly high: Float32Array
}

interface Header {
  stretches: { start_s: number; step_s: number; count: number }[]
}

/** Read the answer of the API: where samples are missing, no stretch lies. */
export function decodeView(buffer: ArrayBuffer): Stretch[] {
  const size = new DataView(buffer).getUint32(0, true)
  const text = new TextDecoder().decode(new Uint8Array(buffer, 4, size))
  const { stretches } = JSON.parse(text) as Header
  const numbers = new Float32Array(buffer, 4 + size)
  let at = 0
  return stretches.map(({ start_s, step_s, count }) => {
    const low = numbers.subarray(at, at + count)
    const high = numbers.subarray(numbers.length / 2 + at, numbers.length / 2 + at + count)
    at += count
    return { start: start_s, step: step_s, low, high }
  })
}

/** Fetch what a plot `pixels` wide shows of a channel between two times of a run. */
export async function fetchView(
  runId: number,
  channel: string,
  [from, to]: [number, number],
  pixels: number,
  signal?: AbortSignal,
): Promise<Stretch[]> {
  const query = new URLSearchParams({
    channel,
    from_s: String(from),
    to_s: String(to),
    pixels: String(pixels),
  })
  const answer = await fetch(`/api/runs/${runId}/view?${query}`, { signal })
  if (!answer.ok) throw new ProblemError(await answer.json())
  return decodeView(await answer.arrayBuffer())
}
