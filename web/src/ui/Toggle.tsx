import { Switch } from 'radix-ui'

interface Props {
  label: string
  on: boolean
  disabled?: boolean
  onChange: (on: boolean) => void
}

/** Something that is on or off, changed at once. */
export function Toggle({ label, on, disabled, onChange }: Props) {
  return (
    <Switch.Root
      aria-label={label}
      checked={on}
      disabled={disabled}
      onCheckedChange={onChange}
      className="h-4 w-7 flex-none rounded-sm border border-ink bg-sheet p-px data-[state=checked]:bg-ink"
    >
      <Switch.Thumb className="block size-3 rounded-xs bg-soft data-[state=checked]:translate-x-3 data-[state=checked]:bg-paper" />
    </Switch.Root>
  )
}
