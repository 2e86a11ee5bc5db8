import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Channel, Setup } from '../../api/client'
import { makeSheet } from '../../api/actions'
import { sheetQuery } from '../../api/queries'
import { Button } from '../../ui/Button'

/** Sheets to take to the bench: of all inputs, and of the one that is shown. */
export function WiringSheets({ setup, channel }: { setup: Setup; channel: Channel }) {
  return (
    <span className="ml-auto flex flex-none items-center gap-2 text-small">
      <span className="text-soft">Wiring sheet of</span>
      <Sheet key={channel.key} setup={setup} channel={channel.key} of={channel.name} />
      <Sheet setup={setup} channel="" of="all inputs" />
    </span>
  )
}

/** Made by the worker, then a file to open. */
function Sheet({ setup, channel, of }: { setup: Setup; channel: string; of: string }) {
  const [ordered, order] = useState(false)
  const sheet = useQuery(sheetQuery(setup.id, channel, ordered)).data
  const there = sheet?.made_at && sheet.version === setup.version
  const press = async () => {
    order(true)
    await makeSheet(setup.id, channel)
  }
  if (there)
    return (
      <a
        className="inline-flex h-6 items-center rounded border border-petrol bg-sheet px-2 font-number text-petrol"
        href={`/api/setups/${setup.id}/wiring-sheet.pdf?channel=${channel}`}
        target="_blank"
        rel="noreferrer"
      >
        Open that of {of}
      </a>
    )
  const making = ordered && !sheet?.problem
  return (
    <span className="flex items-center gap-2">
      {sheet?.problem && <span className="text-signal">{sheet.problem}</span>}
      <Button
        size={24}
        aria-label={`Make the wiring sheet of ${of}`}
        disabled={making}
        onClick={() => void press()}
      >
        {making ? 'Making it' : of}
      </Button>
    </span>
  )
}
