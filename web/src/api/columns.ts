import { ProblemError } from './client'

/** A JSON header and columns of figures, as the API packs them. */
export function unpack<Header>(buffer: ArrayBuffer): { header: Header; numbers: Float32Array } {
  const size = new DataView(buffer).getUint32(0, true)
  const text = new TextDecoder().decode(new Uint8Array(buffer, 4, size))
  return { header: JSON.parse(text) as Header, numbers: new Float32Array(buffer, 4 + size) }
}

/** Fetch such an answer; throws `ProblemError` for a problem. */
export async function fetchColumns(
  path: string,
  query: Record<string, string | number>,
  signal?: AbortSignal,
): Promise<ArrayBuffer> {
  const words = new URLSearchParams(Object.entries(query).map(([k, v]) => [k, String(v)]))
  const answer = await fetch(`${path}?${words}`, { signal })
  if (!answer.ok) throw new ProblemError(await answer.json())
  return answer.arrayBuffer()
}
