import { changeSensor, type Instrument } from '../api/library'
import { Section } from '../ui/Fact'
import { attempt } from '../ui/notices'
import { CORE_COLOURS, coreFill } from '../kinds/inputs/drawing/parts'

/** The plug with its pins, and the colour of the core on each, as the drawing shows it. */
export function PlugAndCores({ instrument, may }: { instrument: Instrument; may: boolean }) {
  const { cores } = instrument
  const recolour = (pin: number, colour: string) => {
    const table = cores.map((c) => `${c.pin} ${c.pin === pin ? colour : c.colour}`)
    void attempt(changeSensor(instrument.id, { cores: table.join(', ') }))
  }
  return (
    <Section title="Plug and cores">
      <div className="relative">
        <span className="absolute top-0 bottom-0 left-0 w-8 rounded border border-ink bg-sheet" />
        {cores.map((core) => (
          <div key={core.pin} className="relative flex h-5.5 items-center gap-3 text-small">
            <span className="figure z-10 ml-1.75 grid size-4.5 place-items-center rounded-full bg-ink text-note text-paper">
              {core.pin}
            </span>
            <span
              className="-ml-3 h-2 w-23 border"
              style={{ background: coreFill(core.colour), borderColor: 'var(--core-edge)' }}
            />
            {may ? (
              <select
                value={core.colour}
                aria-label={`Colour of pin ${core.pin}`}
                onChange={(e) => recolour(core.pin, e.target.value)}
                className="h-5 rounded border border-rule bg-sheet px-0.5"
              >
                {CORE_COLOURS.map((colour) => (
                  <option key={colour}>{colour}</option>
                ))}
              </select>
            ) : (
              core.colour
            )}
            <span className="ml-auto text-soft">{core.function}</span>
          </div>
        ))}
      </div>
    </Section>
  )
}
