/** How certificates may stand, as the server says it, in the order in which they are listed. */

export type Status = 'overdue' | 'soon' | 'in force' | 'without'
export const STATUSES: readonly (readonly [Status, string])[] = [
  ['overdue', 'Overdue'],
  ['soon', 'Due soon'],
  ['in force', 'In force'],
  ['without', 'No due date'],
]
