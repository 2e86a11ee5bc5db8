import type { Standing } from './standing'

/** Each standing has its colour and its shape beside its words. */
export const BANDS: Record<Standing, string> = {
  recording: 'bg-band text-on-band',
  busy: 'bg-band text-on-band',
  waiting: 'bg-petrol-wash text-ink border-b-2 border-petrol',
  standing: 'bg-marking text-on-marking',
  dry: 'bg-paper text-ink border-y-2 border-dashed border-petrol',
}
export const SIGNS: Record<Standing, string> = {
  recording: 'rounded-full bg-on-band',
  busy: 'rounded-full border-4 border-on-band',
  waiting: 'rounded-full border-4 border-petrol',
  standing: 'border-x-6 border-on-marking',
  dry: 'rounded-full border-2 border-dashed border-petrol',
}
