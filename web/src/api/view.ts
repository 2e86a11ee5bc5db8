import { fetchColumns, unpack } from './columns'

/** Columns that lie evenly in time: lowest and highest in SI, infinite where samples clipped. */
export interface PlotSegment {
  readonly start: number // s of the run
  readonly step: number // s
  readonly low: Float32Array
  readonly high: Float32Array
}

interface Header {
  segments: { start_s: number; step_s: number; count: number }[]
}

/** Read the answer of the API: where samples are missing, no segment lies. */
export function decodeView(buffer: ArrayBuffer): PlotSegment[] {
  const { header, numbers } = unpack<Header>(buffer)
  let at = 0
  return header.segments.map(({ start_s, step_s, count }) => {
    const low = numbers.subarray(at, at + count)
    const high = numbers.subarray(numbers.length / 2 + at, numbers.length / 2 + at + count)
    at += count
    return { start: start_s, step: step_s, low, high }
  })
}

/** Fetch what a plot `pixels` wide shows of a channel between two times of a run, as it is read
 * by a version of its definitions. */
export async function fetchView(
  runId: number,
  channel: string,
  [from_s, to_s]: [number, number],
  pixels: number,
  signal?: AbortSignal,
  version = '',
): Promise<PlotSegment[]> {
  const query = { channel, from_s, to_s, pixels, ...(version && { version }) }
  return decodeView(await fetchColumns(`/api/runs/${runId}/view`, query, signal))
}
