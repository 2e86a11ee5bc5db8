import { useState } from 'react'

import { Button } from './Button'

interface Props {
  /** The action, as "Remove Spare". */
  action: string
  /** What it takes away for good. */
  warning: string
  size?: 24 | 28
  onConfirm: () => void
}

/** For what cannot be taken back: pressed, it says what is lost and asks once more. */
export function ConfirmedButton({ action, warning, size = 24, onConfirm }: Props) {
  const [asking, setAsking] = useState(false)
  if (!asking) {
    return (
      <Button size={size} onClick={() => setAsking(true)}>
        {action}…
      </Button>
    )
  }
  const confirm = () => {
    setAsking(false)
    onConfirm()
  }
  return (
    <div role="group" aria-label={action} className="flex flex-wrap items-center gap-2 text-small">
      <span>{warning}</span>
      <Button size={24} look="stop" onClick={confirm}>
        {action}
      </Button>
      <Button size={24} autoFocus onClick={() => setAsking(false)}>
        Leave it
      </Button>
    </div>
  )
}
