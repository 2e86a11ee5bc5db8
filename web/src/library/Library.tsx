import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { useState, type ReactNode } from 'react'

import { kindsQuery, libraryQuery } from '../api/library'
import { useMay } from '../api/queries'
import { useStage } from '../frame/stage'
import { Button } from '../ui/Button'
import { SearchField } from '../ui/SearchField'
import { ImportTable } from './ImportTable'
import { InstrumentPanel } from './InstrumentPanel'
import { KindList, type Wanted } from './KindList'
import { NewInstrument } from './NewInstrument'
import { SensorList } from './SensorList'

/** Kinds at the left, instruments in the middle, the chosen one at the right. */
export function Library({ view }: { view: ReactNode }) {
  const stage = useStage()
  const may = useMay('keep the library')
  const [wanted, want] = useState<Wanted>({ by: 'all', value: '' })
  const [search, setSearch] = useState('')
  const [chosen, choose] = useState<number | null>(null)
  const [doing, setDoing] = useState<'new' | 'import' | null>(null)
  const [retired, setRetired] = useState(false)
  const sort = wanted.by === 'all' ? {} : { [wanted.by]: wanted.value }
  const list = useInfiniteQuery(libraryQuery({ retired, search, ...sort }))
  const kinds = useQuery(kindsQuery).data ?? []
  const found = list.data?.pages.flatMap((p) => p.items) ?? []
  const [first] = list.data?.pages ?? []
  const counts = first?.counts
  const shown = found.find((l) => l.id === chosen) ?? found[0]
  const pick = (id: number) => {
    setDoing(null)
    choose(id)
  }
  return (
    <div className="grid h-full grid-cols-[176px_1fr_352px]">
      <KindList counts={counts} kinds={kinds} wanted={wanted} onWant={want} />
      <section className="col" aria-label="Instruments">
        <div className="bar max-xl:h-auto max-xl:flex-wrap max-xl:py-2">
          {view}
          <SearchField
            label="Search the library"
            placeholder="Serial, name, place"
            value={search}
            onChange={setSearch}
            className="w-40 min-w-24 shrink"
          />
          <span className="flex-none text-soft">
            <span className="figure text-ink">{first?.count ?? 0}</span> of{' '}
            <span className="figure text-ink">{counts?.all ?? 0}</span>
          </span>
          {may && (
            <span className="ml-auto">
              <Button onClick={() => setDoing('new')}>New instrument</Button>
            </span>
          )}
        </div>
        <SensorList
          lines={found}
          counts={wanted.by === 'all' && !search ? counts?.kind : undefined}
          chosen={shown?.id ?? null}
          onChoose={pick}
          more={list.hasNextPage ? () => void list.fetchNextPage() : undefined}
        />
        <Foot
          overdue={counts?.status.overdue ?? 0}
          retired={retired}
          onRetired={setRetired}
          onImport={may ? () => setDoing('import') : undefined}
        />
      </section>
      {doing === 'new' ? (
        <NewInstrument kinds={kinds} onDone={(id) => (id ? pick(id) : setDoing(null))} />
      ) : doing === 'import' ? (
        <ImportTable onDone={() => setDoing(null)} />
      ) : shown ? (
        <InstrumentPanel key={shown.id} id={shown.id} stage={stage} />
      ) : (
        <section className="col p-4 text-soft">No instrument matches.</section>
      )}
    </div>
  )
}

interface FootProps {
  overdue: number
  retired: boolean
  onRetired: (retired: boolean) => void
  onImport?: () => void
}

function Foot({ overdue, retired, onRetired, onImport }: FootProps) {
  return (
    <div className="flex flex-none flex-wrap items-center gap-3 border-t border-rule bg-paper px-4 py-2 whitespace-nowrap">
      {overdue > 0 && <b className="font-strong text-signal">{overdue} overdue</b>}
      <label className="flex items-center gap-1.5 text-soft">
        <input type="checkbox" checked={retired} onChange={(e) => onRetired(e.target.checked)} />
        out of use
      </label>
      <span className="ml-auto flex gap-2">
        {onImport && <Button onClick={onImport}>Import</Button>}
        <a
          className="inline-flex h-7 items-center rounded border border-rule-strong bg-sheet px-2.5 font-number"
          href="/api/library.xlsx"
        >
          Export XLSX
        </a>
        <a
          className="inline-flex h-7 items-center rounded border border-rule-strong bg-sheet px-2.5 font-number"
          href="/api/library.csv"
        >
          CSV
        </a>
      </span>
    </div>
  )
}
