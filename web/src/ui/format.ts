/** Numbers and units as the bench reads them. */

export const MINUS = '\u2212'
const THIN = '\u2009'

/** `value` with fixed decimals, a true minus, thousands grouped from 10 000 up. */
export function figure(value: number | null | undefined, decimals: number): string {
  if (value == null || !Number.isFinite(value)) return '–'
  const text = Math.abs(value).toFixed(decimals)
  const [whole = '', part] = text.split('.')
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, THIN) : whole
  const negative = value < 0 && Number(text) !== 0
  return (negative ? MINUS : '') + grouped + (part ? `.${part}` : '')
}

/**
 * A result: figures too long, or too small, to read become a power of ten.
 *
 * beside : the other figures of its column; all are written like the largest of them
 */
export function resultFigure(
  value: number | null | undefined,
  decimals: number,
  beside: readonly number[] = [],
): string {
  const size = Math.max(...[value ?? 0, ...beside].map(Math.abs))
  const readable = size === 0 || (size < 1e7 && size >= 0.5 * 10 ** -decimals)
  if (!value || !Number.isFinite(value) || readable) return figure(value, decimals)
  const power = Math.floor(Math.log10(Math.abs(value)))
  const raised = [...String(power)].map((c) => '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(c)] ?? '⁻').join('')
  return `${figure(value / 10 ** power, 3)} × 10${raised}`
}

/** `value` with five significant figures. */
export function significant(value: number): string {
  const whole = value === 0 ? 1 : Math.floor(Math.log10(Math.abs(value))) + 1
  return figure(value, Math.min(6, Math.max(0, 5 - whole)))
}

/** Seconds as 0:07, 12:03 or 6:05:01. */
export function duration(seconds: number): string {
  const s = Math.floor(seconds)
  const two = (n: number) => String(n).padStart(2, '0')
  const hours = Math.floor(s / 3600)
  const minutes = Math.floor(s / 60) % 60
  return hours ? `${hours}:${two(minutes)}:${two(s % 60)}` : `${minutes}:${two(s % 60)}`
}

/** Time of day of an ISO moment, in the viewer's zone. */
export const clock = (iso: string): string =>
  new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })

export const day = (iso: string): string => new Date(iso).toISOString().slice(0, 10)

/** A number typed by a person, with comma or point and any minus; null if it is none. */
export function parseNumber(text: string): number | null {
  const plain = text.trim().replace(/\s/g, '').replace(MINUS, '-').replace(',', '.')
  return plain !== '' && Number.isFinite(Number(plain)) ? Number(plain) : null
}

/** Bytes as 412 kB, 7.5 MB or 1.2 GB. */
export function amount(bytes: number): string {
  const [by, unit] = bytes < 1e6 ? [1e3, 'kB'] : bytes < 1e9 ? [1e6, 'MB'] : [1e9, 'GB']
  const value = bytes / by
  return `${figure(value, value < 10 ? 1 : 0)}${THIN}${unit}`
}
