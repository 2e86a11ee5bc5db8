import { ProblemError } from './client'

/** Lowest and highest per column of a run, in SI; NaN where a gap is. */
export interface View {
  first: number
  step: number
  low: Float32Array
  high: Float32Array
}

/** Fetch what a plot `pixels` wide shows of samples [first, last) of a channel. */
export async function fetchView(
  runId: number,
  channel: number,
  [first, last]: [number, number],
  pixels: number,
  signal?: AbortSignal,
): Promise<View> {
  const query = new URLSearchParams(
    Object.entries({ channel, first, last, pixels }).map(([k, v]) => [k, String(v)]),
  )
  const answer = await fetch(`/api/runs/${runId}/view?${query}`, { signal })
  if (!answer.ok) throw new ProblemError(await answer.json())
  const buffer = await answer.arrayBuffer()
  const size = new DataView(buffer).getUint32(0, true)
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, size))) as {
    first: number
    step: number
    count: number
  }
  const numbers = new Float32Array(buffer, 4 + size)
  return {
    first: header.first,
    step: header.step,
    low: numbers.subarray(0, header.count),
    high: numbers.subarray(header.count, 2 * header.count),
  }
}
