import { useState, type ReactNode } from 'react'

import { useMay } from '../api/queries'
import { useStage } from '../frame/stage'
import { Button } from '../ui/Button'
import { BenchText } from './BenchText'
import { DeviceView } from './DeviceView'
import { linkWords } from './link'
import { OnTheNetwork } from './OnTheNetwork'
import { row } from '../ui/row'

/** The bench's devices, all that is known of the chosen one, and how another one comes to it. */
export function Devices({ view }: { view: ReactNode }) {
  const { bench, setup } = useStage()
  const may = useMay('set up benches')
  const [chosen, choose] = useState<number | 'text' | null>(null)
  const device = bench.devices.find((d) => d.id === chosen) ?? bench.devices[0]
  return (
    <div className="grid h-full grid-cols-[300px_1fr_284px]">
      <section className="col" aria-label="Devices">
        <div className="bar">{view}</div>
        <ul className="min-h-0 flex-1 overflow-y-auto">
          {bench.devices.map((d) => {
            const [words, colour] = linkWords(d)
            const shown = chosen !== 'text' && d.id === device?.id
            return (
              <li key={d.id}>
                <button
                  type="button"
                  aria-pressed={shown}
                  onClick={() => choose(d.id)}
                  className={row({
                    chosen: shown,
                    className:
                      'grid w-full grid-cols-[1fr_auto] gap-x-2 border-b border-rule px-4 py-1.5 text-left',
                  })}
                >
                  <b className="truncate font-strong">{d.label}</b>
                  <b className={`font-strong ${colour}`}>{words}</b>
                  <span className="truncate text-small text-soft">{d.driver}</span>
                  <span className="figure text-small text-soft">{d.serial}</span>
                </button>
              </li>
            )
          })}
          {!bench.devices.length && (
            <li className="p-4 text-soft">
              This bench has no device yet. Find them on the network, or add one by its address.
            </li>
          )}
        </ul>
        <div className="flex flex-none border-t border-rule bg-paper px-4 py-2">
          <Button aria-pressed={chosen === 'text'} onClick={() => choose('text')}>
            {bench.name} as text
          </Button>
        </div>
      </section>
      {chosen === 'text' ? (
        <BenchText bench={bench} />
      ) : device ? (
        <DeviceView key={device.id} bench={bench} setup={setup} device={device} />
      ) : (
        <section className="col" aria-label="No device" />
      )}
      <section className="col overflow-y-auto" aria-label="Add devices">
        <div className="bar">
          <h2>Add devices</h2>
        </div>
        {may ? (
          <OnTheNetwork bench={bench} />
        ) : (
          <p className="p-4 text-soft">An engineer adds devices to a bench.</p>
        )}
      </section>
    </div>
  )
}
