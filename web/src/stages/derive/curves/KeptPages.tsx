import { useState } from 'react'

import type { Schemas } from '../../../api/client'
import { keepCurvePage, removeCurvePage, type CurvesPage } from '../../../api/curves'
import { useMay } from '../../../api/queries'
import { Button } from '../../../ui/Button'
import { attempt, say } from '../../../ui/notices'

type Kept = Schemas['CurvePageOut']

interface Props {
  project: number
  pages: readonly Kept[]
  page: CurvesPage
  name: string
  onOpen: (page: Kept) => void
  onName: (name: string) => void
}

/** Pages that are kept with the project under a name. */
export function KeptPages({ project, pages, page, name, onOpen, onName }: Props) {
  const may = useMay('write reports')
  const [saving, setSaving] = useState(false)
  const shown = pages.find((one) => one.name === name)
  const keep = async () => {
    setSaving(true)
    if (await attempt(keepCurvePage(project, name.trim(), page).then(() => true)))
      say(`Kept ${name.trim()} with the project.`)
    setSaving(false)
  }
  return (
    <span className="flex items-center gap-2">
      {pages.length > 0 && (
        <select
          aria-label="Kept pages"
          value={shown ? String(shown.id) : ''}
          onChange={(e) => {
            const found = pages.find((one) => String(one.id) === e.target.value)
            if (found) onOpen(found)
          }}
          className="h-7 max-w-40 rounded border border-rule-strong bg-sheet px-2"
        >
          <option value="">Open a page…</option>
          {pages.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      )}
      {may && (
        <>
          <input
            aria-label="Name of the page"
            placeholder="Name to keep it under"
            value={name}
            maxLength={30}
            onChange={(e) => onName(e.target.value)}
            onKeyDown={(e) => e.key === 'Enter' && name.trim() && void keep()}
            className="h-7 w-40 rounded border border-rule-strong bg-paper px-2"
          />
          <Button disabled={!name.trim() || saving} onClick={() => void keep()}>
            {shown ? 'Keep anew' : 'Keep'}
          </Button>
          {shown && (
            <Button onClick={() => void attempt(removeCurvePage(project, shown.id))}>
              Take away
            </Button>
          )}
        </>
      )}
    </span>
  )
}
