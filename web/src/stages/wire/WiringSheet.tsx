import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { Setup } from '../../api/client'
import { makeSheet } from '../../api/deeds'
import { sheetQuery } from '../../api/queries'
import { Button } from '../../ui/Button'

/** The sheet to take to the bench: made by the worker, then a file to open. */
export function WiringSheet({ setup }: { setup: Setup }) {
  const [ordered, order] = useState(false)
  const sheet = useQuery(sheetQuery(setup.id, ordered)).data
  const there = sheet?.made_at && sheet.version === setup.version
  const press = async () => {
    order(true)
    await makeSheet(setup.id)
  }
  if (there)
    return (
      <a
        className="ml-auto inline-flex h-7 items-center rounded border border-rule-strong bg-sheet px-2.5 font-[560]"
        href={`/api/setups/${setup.id}/wiring-sheet.pdf`}
        target="_blank"
        rel="noreferrer"
      >
        Open wiring sheet
      </a>
    )
  const making = ordered && !sheet?.problem
  return (
    <span className="ml-auto flex items-center gap-2">
      {sheet?.problem && <span className="text-signal">{sheet.problem}</span>}
      <Button disabled={making} onClick={() => void press()}>
        {making ? 'Making the sheet' : 'Make wiring sheet'}
      </Button>
    </span>
  )
}
