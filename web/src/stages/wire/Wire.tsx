import { useState, type ReactNode } from 'react'
import { useSearchParams } from 'react-router'

import type { Channel } from '../../api/client'
import type { Plug } from '../../api/plugs'
import { useStage } from '../../frame/stage'
import { Segments } from '../../ui/Fact'
import { ChannelInspector } from './ChannelInspector'
import { CheckPanel } from './CheckPanel'
import { Devices } from '../../devices/Devices'
import { GiveSensor } from './GiveSensor'
import { WireTable } from './grid/WireTable'
import { InputList, type Input } from './InputList'
import { Library } from '../../library/Library'
import { InputDrawing } from '../../kinds/inputs/InputDrawing'
import { MarksContext, marksOf } from '../../kinds/inputs/drawing/marks'
import { Plugs } from './Plugs'
import { Versions } from '../../versions/Versions'
import { WiringSheets } from './WiringSheet'

/** The inputs one by one with their drawing, or all of them as a table. */
export function Wire() {
  const [query, setQuery] = useSearchParams()
  const { bench } = useStage()
  // A bench begins with its devices, one that has them with what is wired.
  const [first] = useState(() =>
    bench.devices.some((d) => d.inputs.length) ? 'drawing' : 'devices',
  )
  const shown = (query.get('view') ?? first) as keyof typeof VIEWS
  const view = (
    <Segments
      dense
      label="View"
      options={[
        ['drawing', 'Drawing'],
        ['table', 'Table'],
        ['devices', 'Devices'],
        ['library', 'Library'],
        ['versions', 'Versions'],
      ]}
      value={shown}
      onChange={(next) => setQuery(next === first ? {} : { view: next })}
    />
  )
  const View = VIEWS[shown] ?? WireDrawing
  return <View view={view} />
}

const VIEWS = {
  drawing: WireDrawing,
  table: WireTable,
  devices: Devices,
  library: Library,
  versions: Versions,
}

/** Inputs at the left, the wiring of the chosen one in the middle, its settings at the right. */
function WireDrawing({ view }: { view: ReactNode }) {
  const { setup, bench, chosen, choose } = useStage()
  const [free, setFree] = useState<number | null>(null)
  const [plugs, setPlugs] = useState<Plug[] | null>(null)
  const inputs = bench.devices.flatMap((d) => d.inputs)
  if (!inputs.length)
    return (
      <section className="col h-full">
        <div className="bar">{view}</div>
        <p className="p-4 text-soft">
          This bench has no device with inputs yet: add one in Devices.
        </p>
      </section>
    )
  const channel =
    free === null ? (setup.channels.find((c) => c.id === chosen) ?? setup.channels[0]) : undefined
  const shown = channel ? channel.input_id : (free ?? inputs[0]!.id)
  const device = bench.devices.find((d) => d.inputs.some((i) => i.id === shown))!
  const pick = (input: Input, found?: Channel) => {
    setPlugs(null)
    setFree(found ? null : input.id)
    choose(found?.id ?? null)
  }
  return (
    <div className="grid h-full grid-cols-[300px_1fr_284px]">
      <InputList
        view={view}
        setup={setup}
        bench={bench}
        shown={shown}
        pick={pick}
        onRead={setPlugs}
      />
      {plugs ? (
        <Plugs setup={setup} plugs={plugs} onRead={setPlugs} onClose={() => setPlugs(null)} />
      ) : channel ? (
        <>
          <section className="col" aria-label={`Wiring of ${channel.name}`}>
            <div className="bar">
              <h1>{channel.name}</h1>
              <span className="truncate text-soft">
                {channel.sensor.name}: {channel.connection}, on input {channel.device_label}.
                {channel.input_number}
              </span>
              <WiringSheets setup={setup} channel={channel} />
            </div>
            <div className="min-h-0 flex-1 overflow-auto">
              <MarksContext value={marksOf(channel)}>
                <InputDrawing channel={channel} device={device} />
              </MarksContext>
            </div>
            <CheckPanel setup={setup} bench={bench} channel={channel} />
          </section>
          <ChannelInspector key={channel.id} setup={setup} bench={bench} channel={channel} />
        </>
      ) : (
        <GiveSensor
          key={shown}
          setup={setup}
          device={device}
          input={device.inputs.find((i) => i.id === shown)!}
          onWired={() => setFree(null)}
        />
      )}
    </div>
  )
}
