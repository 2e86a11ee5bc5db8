import { Link } from 'react-router'

import type { Bench, Setup } from '../api/client'
import { Mark } from '../ui/Icon'
import { BenchChip } from './BenchChip'
import { FindButton } from './FindDialog'
import { PersonMenu } from './PersonMenu'

export function TopBar({ setup, bench }: { setup: Setup; bench: Bench }) {
  return (
    <header className="col-span-2 flex items-center border-b border-rule bg-sheet">
      <Link
        to="/"
        aria-label="All projects"
        className="grid h-10.75 w-22 place-items-center border-r border-rule"
      >
        <Mark />
      </Link>
      <div className="flex w-100 min-w-0 items-baseline gap-2 px-4 whitespace-nowrap">
        <span className="text-lead font-name" style={{ fontStretch: '108%' }}>
          {setup.project_name}
        </span>
        <span className="text-soft">/</span>
        <span className="truncate">
          {setup.name}, version {setup.version}
        </span>
      </div>
      <FindButton />
      <div className="ml-auto flex h-10.75 items-center">
        <BenchChip bench={bench} />
        <PersonMenu />
      </div>
    </header>
  )
}
