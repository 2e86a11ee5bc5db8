import { tv } from 'tailwind-variants/lite'

/** A line of a list or table that can be chosen. */
export const row = tv({
  variants: {
    chosen: { true: 'bg-marking-wash shadow-chosen', false: 'hover:bg-paper' },
  },
})
