import type { LibraryLine } from '../../../api/library'

const DAY = 86_400_000
export const SOON = 30 // days

export type Standing = 'overdue' | 'soon' | 'in force' | 'without'
export const STANDINGS: readonly (readonly [Standing, string])[] = [
  ['overdue', 'Overdue'],
  ['soon', `Due in ${SOON} days`],
  ['in force', 'In force'],
  ['without', 'No due date'],
]

export const today = (): string => new Date().toISOString().slice(0, 10)

/** Whole days until a date, below zero when it is past. */
export const daysTo = (date: string, today: string): number =>
  Math.round((Date.parse(date) - Date.parse(today)) / DAY)

/** How an instrument's calibration stands today. */
export function standing(line: Pick<LibraryLine, 'due_on'>, today: string): Standing {
  if (!line.due_on) return 'without'
  const days = daysTo(line.due_on, today)
  return days < 0 ? 'overdue' : days <= SOON ? 'soon' : 'in force'
}

/** How much of the term from calibration to due date has passed, from 0 to 1. */
export function elapsed(
  line: Pick<LibraryLine, 'due_on' | 'calibrated_on'>,
  today: string,
): number {
  if (!line.due_on || !line.calibrated_on) return 0
  const whole = daysTo(line.due_on, line.calibrated_on)
  return Math.min(Math.max(daysTo(today, line.calibrated_on) / Math.max(whole, 1), 0), 1)
}

export function dueWords(due: string, today: string): string {
  const days = daysTo(due, today)
  if (days < 0) return `overdue ${-days} ${days === -1 ? 'day' : 'days'}`
  if (days === 0) return 'due today'
  return days <= SOON ? `in ${days} ${days === 1 ? 'day' : 'days'}` : due
}

/** Change of a value a year by a straight line through its points, over its mean. */
export function driftPerYear(points: readonly (readonly [date: string, value: number])[]): number {
  if (points.length < 2) return 0
  const years = points.map(([d]) => Date.parse(d) / DAY / 365.25)
  const values = points.map(([, v]) => v)
  const mean = (of: number[]) => of.reduce((a, b) => a + b, 0) / of.length
  const [x, y] = [mean(years), mean(values)]
  const along = years.reduce((sum, t, i) => sum + (t - x) * (values[i]! - y), 0)
  const across = years.reduce((sum, t) => sum + (t - x) ** 2, 0)
  return across ? along / across / y : 0
}
