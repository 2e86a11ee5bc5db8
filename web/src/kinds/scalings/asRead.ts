import type { ScalingKind } from './scaling'

export const asRead: ScalingKind<'as_read'> = {
  label: 'As it is',
  fields: [],
  seed: () => ({ kind: 'as_read', factor: 1, offset: 0 }),
}
