/** Long ticks of a ruler: some four to eight whole steps of 1, 2 or 5. */
export function ticksOf(
  low: number,
  high: number,
): { long: number[]; step: number; decimals: number } {
  const span = high - low
  if (!(span > 0) || !Number.isFinite(span)) return { long: [low], step: 1, decimals: 0 }
  const power = 10 ** Math.floor(Math.log10(span / 4))
  const step = [1, 2, 5, 10].map((n) => n * power).find((s) => span / s <= 8)!
  const long: number[] = []
  for (let i = Math.ceil(low / step - 1e-9); i * step <= high + 1e-9 * span; i++)
    long.push(i * step)
  return { long, step, decimals: Math.max(0, -Math.floor(Math.log10(step) + 1e-9)) }
}
