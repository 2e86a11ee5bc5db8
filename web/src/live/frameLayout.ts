/** The layout of a live frame, written by `manage.py export_frame_layout`. */
export const HEADER_BYTES = 32
export const HEADER = {
  layout: [0, 'Uint32'],
  channels: [4, 'Uint16'],
  bins: [6, 'Uint16'],
  spare: [8, 'BigUint64'],
  endS: [16, 'Float64'],
  runS: [24, 'Float64'],
} as const
export const NO_RUN = -1
export const ROW = ['place', 'reading', 'raw', 'lowest', 'highest', 'clipped', 'mean', 'deviation', 'mean10', 'deviation10', 'lowest10', 'highest10', 'mean60', 'deviation60', 'lowest60', 'highest60'] as const
export const BIN = ['low', 'high', 'last'] as const
