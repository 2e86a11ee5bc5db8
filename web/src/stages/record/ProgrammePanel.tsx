import type { Setup } from '../../api/client'
import { changeRate, changeSetup } from '../../api/actions'
import { useMay } from '../../api/queries'
import { GUARDS } from '../../kinds/guards'
import { KEEP_RULES } from '../../kinds/keepRules'
import { MOTIONS } from '../../kinds/motions'
import { SPECIMENS } from '../../kinds/specimens'
import { TRIGGERS } from '../../kinds/triggers'
import { SpecForm } from '../../kinds/SpecForm'
import { SpecList } from '../../kinds/SpecList'
import { readablesOf } from '../../readable'
import { StopList } from '../../kinds/stops/StopList'
import { EditableNumber, EditableText } from '../../ui/Editable'
import { Section } from '../../ui/Fact'
import { Batch, namesOf } from './Batch'
import { foretold, forecastWords } from './forecast'
import { KeptProgrammes } from './KeptProgrammes'
import { PaperPlot } from './PaperPlot'
import { RunsSoFar } from './RunsSoFar'

/** What the next run tests, how it is moved, and what ends it; below it the runs so far. */
export function ProgrammePanel({ setup, recording }: { setup: Setup; recording: boolean }) {
  const may = useMay('drive the bench')
  const locked = !useMay('change the specimen') || recording
  const readables = readablesOf(setup)
  const change = (body: Parameters<typeof changeSetup>[1]) => changeSetup(setup.id, body)
  return (
    <section className="col overflow-y-auto" aria-label="Programme">
      <div className="bar">
        <h2>Programme</h2>
      </div>
      <Section title="Specimen">
        <EditableText
          label="Name"
          value={setup.specimen}
          disabled={locked}
          onSave={(specimen) => change({ specimen })}
        />
        <SpecForm
          label="Shape"
          forms={SPECIMENS}
          spec={setup.piece}
          disabled={locked}
          onSave={(piece) => change({ piece })}
        />
      </Section>
      <Batch setup={setup} disabled={locked} />
      <Section title="Motion">
        <SpecForm
          label="Kind"
          forms={MOTIONS}
          spec={setup.motion}
          channels={readables}
          disabled={locked}
          onSave={(motion) => change({ motion })}
        />
        {setup.paper && <PaperPlot paper={setup.paper} />}
        <KeptProgrammes setup={setup} disabled={locked} />
      </Section>
      <Section title="Kept from">
        <SpecForm
          label="Begins"
          forms={TRIGGERS}
          spec={setup.trigger}
          channels={readables}
          disabled={locked}
          onSave={(trigger) => change({ trigger })}
        />
      </Section>
      <Section title="Ends by hand, or by">
        <StopList
          stops={setup.stops}
          channels={readables}
          disabled={locked}
          onSave={(stops) => change({ stops })}
        />
      </Section>
      <Section title="Guards">
        <SpecList
          items={setup.guards}
          forms={GUARDS}
          channels={readables}
          disabled={locked}
          addLabel="Guard also"
          onSave={(guards) => change({ guards })}
        />
      </Section>
      <Section title="Kept">
        <SpecList
          items={setup.keep_rules}
          forms={KEEP_RULES}
          channels={readables}
          disabled={locked}
          addLabel="Keep also"
          note={(_, at) => foretold(setup.forecast.rules[at])}
          onSave={(keep_rules) => change({ keep_rules })}
        />
        {setup.channels.length > 0 && (
          <p className="pt-1.5 text-small text-soft">{forecastWords(setup.forecast)}</p>
        )}
      </Section>
      <Section title="Recording">
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
        <EditableText
          label="Asked at the start"
          value={setup.asked.join('; ')}
          disabled={locked}
          onSave={(text) => change({ asked: namesOf(text) })}
        />
      </Section>
      <RunsSoFar setup={setup.id} may={may} />
    </section>
  )
}
