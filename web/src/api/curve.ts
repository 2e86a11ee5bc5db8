import { fetchColumns, unpack } from './columns'

/** Points of a stress-strain curve: strain in m/m with the toe taken off, stress in Pa. */
export interface Points {
  readonly strain: Float32Array
  readonly stress: Float32Array
}
/** The whole curve, and its elastic part in more detail. */
export interface Curve {
  readonly whole: Points
  readonly near: Points
}

export function decodeCurve(buffer: ArrayBuffer): Curve {
  const { header, numbers } = unpack<{ whole: number; near: number }>(buffer)
  const points = (from: number, count: number): Points => ({
    strain: numbers.subarray(from, from + count),
    stress: numbers.subarray(from + count, from + 2 * count),
  })
  return { whole: points(0, header.whole), near: points(2 * header.whole, header.near) }
}

/** Fetch a run's curve for plots of a size in pixels. */
export async function fetchCurve(
  runId: number,
  width: number,
  height: number,
  signal?: AbortSignal,
): Promise<Curve> {
  const path = `/api/runs/${runId}/tension/curve`
  return decodeCurve(await fetchColumns(path, { width, height }, signal))
}
