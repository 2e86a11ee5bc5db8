import { useQuery } from '@tanstack/react-query'

import type { Setup } from '../../api/client'
import { changeRate, changeSetup } from '../../api/deeds'
import { runsQuery, useMay } from '../../api/queries'
import { EditableNumber, EditableText } from '../../ui/Editable'
import { Fact, Section } from '../../ui/Fact'
import { figure } from '../../ui/format'

/** What the next run pulls, how, and when it stops; below it the runs so far. */
export function PullPanel({ setup, recording }: { setup: Setup; recording: boolean }) {
  const locked = !useMay('change the specimen') || recording
  const runs = useQuery(runsQuery(setup.id)).data ?? []
  const change = (body: Parameters<typeof changeSetup>[1]) => changeSetup(setup.id, body)
  return (
    <section className="col" aria-label="Pull">
      <div className="bar">
        <h2>Pull</h2>
        <span className="ml-auto text-[12px] text-soft">to the break</span>
      </div>
      <Section title="Specimen">
        <EditableText
          label="Name"
          value={setup.specimen}
          disabled={locked}
          onSave={(specimen) => change({ specimen })}
        />
        <Millimetres
          label="Width"
          value={setup.width_m}
          locked={locked}
          onSave={(width_m) => change({ width_m })}
        />
        <Millimetres
          label="Thickness"
          value={setup.thickness_m}
          locked={locked}
          onSave={(thickness_m) => change({ thickness_m })}
        />
        <Millimetres
          label="Gauge length"
          value={setup.gauge_length_m}
          locked={locked}
          onSave={(gauge_length_m) => change({ gauge_length_m })}
        />
      </Section>
      <Section title="Ramp and stop">
        <EditableNumber
          label="Speed"
          value={setup.pull_speed_m_s * 1e3}
          decimals={3}
          unit="mm/s"
          disabled={locked}
          onSave={(v) => change({ pull_speed_m_s: v * 1e-3 })}
        />
        <Millimetres
          label="At most"
          value={setup.travel_limit_m}
          locked={locked}
          onSave={(travel_limit_m) => change({ travel_limit_m })}
        />
        <EditableNumber
          label="Stops when F falls by"
          value={setup.force_drop * 100}
          decimals={0}
          unit="%"
          disabled={locked}
          onSave={(v) => change({ force_drop: v / 100 })}
        />
        {setup.rates.map((rate) => (
          <EditableNumber
            key={rate.device_id}
            label={`Rate of ${rate.device_label}`}
            value={rate.rate_hz}
            decimals={0}
            unit="Hz"
            disabled={locked}
            onSave={(hz) => changeRate(setup.id, rate.device_id, hz)}
          />
        ))}
        <EditableText
          label="Run name"
          value={setup.run_name_pattern}
          disabled={locked}
          onSave={(run_name_pattern) => change({ run_name_pattern })}
        />
      </Section>
      <h3 className="px-4 pt-2.5 pb-1">Runs so far</h3>
      <ul className="min-h-0 flex-1 overflow-auto px-4 pb-2">
        {[...runs].reverse().map((run) => (
          <li key={run.id}>
            <Fact name={run.name}>
              <span className={run.state === 'interrupted' ? 'font-[620] text-marking-ink' : ''}>
                {run.state}
              </span>
              {run.duration_s > 0 && (
                <>
                  , <span className="figure">{figure(run.duration_s, 1)}</span> s
                </>
              )}
            </Fact>
          </li>
        ))}
        {runs.length === 0 && <li className="text-[12px] text-soft">None yet.</li>}
      </ul>
    </section>
  )
}

function Millimetres(props: {
  label: string
  value: number
  locked: boolean
  onSave: (metres: number) => Promise<unknown>
}) {
  return (
    <EditableNumber
      label={props.label}
      value={props.value * 1e3}
      decimals={2}
      unit="mm"
      disabled={props.locked}
      onSave={(v) => props.onSave(v * 1e-3)}
    />
  )
}
