import { fetchColumns, unpack } from './columns'

/** What a keep rule has kept row by row over a whole run; each array has one value a column. */
export interface KeptRows {
  /** Rows in all; a column is of one or of several. */
  readonly rows: number
  readonly seconds: Float32Array
  /** SI; not a number where it is not known. */
  readonly low: Float32Array
  readonly high: Float32Array
}

export async function fetchKept(
  run: number,
  rule: string,
  channel: string,
  pixels: number,
  signal?: AbortSignal,
): Promise<KeptRows> {
  const buffer = await fetchColumns(`/api/runs/${run}/kept`, { rule, channel, pixels }, signal)
  const { header, numbers } = unpack<{ rows: number; count: number }>(buffer)
  const [seconds, low, high] = [0, 1, 2].map((i) =>
    numbers.subarray(i * header.count, (i + 1) * header.count),
  )
  return { rows: header.rows, seconds: seconds!, low: low!, high: high! }
}
