import type { ReactNode } from 'react'

import type { ColumnChoice, ImportPreview } from '../../api/files'
import { useStage } from '../../frame/stage'
import { EditableNumber } from '../../ui/Editable'
import { Segments } from '../../ui/Fact'
import { Icon } from '../../ui/Icon'
import { quantities, unitsOf } from '../../ui/units'
import { Sketch } from './Sketch'

type Column = ImportPreview['columns'][number]
type Time = ImportPreview['choices']['time']

const UNITS_OF_TIME = [
  ['s', 's'],
  ['ms', 'ms'],
  ['µs', 'µs'],
] as const

/** The time of the rows: a column and its unit, or none and a rate. */
export function TimeRow({
  preview,
  onChoose,
}: {
  preview: ImportPreview
  onChoose: (time: Time) => void
}) {
  const { time, columns } = preview.choices
  return (
    <Row
      doubtful={preview.time_doubtful}
      name="Time"
      reason={preview.time_reason}
      picture={time.column == null ? null : <Sketch column={preview.columns[time.column]!} />}
    >
      <Select
        label="Column of the time"
        value={time.column == null ? '' : String(time.column)}
        options={[['', 'none, a rate'], ...columns.map((c) => [String(c.place), c.name] as const)]}
        onChoose={(to) =>
          onChoose(
            to === ''
              ? { column: null, unit: 's', rate_hz: 1000 }
              : { column: Number(to), unit: time.unit ?? 's', rate_hz: null },
          )
        }
      />
      {time.column == null ? (
        <div className="w-40">
          <EditableNumber
            label="Rate"
            unit="Hz"
            decimals={3}
            value={time.rate_hz ?? null}
            onSave={(rate_hz) => Promise.resolve(onChoose({ ...time, rate_hz }))}
          />
        </div>
      ) : (
        <Segments
          label="Unit of the time"
          value={time.unit ?? 's'}
          options={UNITS_OF_TIME}
          onChange={(unit) => onChoose({ ...time, unit })}
        />
      )}
    </Row>
  )
}

interface Props {
  preview: ImportPreview
  column: Column
  choice: ColumnChoice
  onChoose: (choice: ColumnChoice) => void
}

/** A column: what it is taken for, why, and how it goes. */
export function ColumnRow({ preview, column, choice, onChoose }: Props) {
  const { setup } = useStage()
  const of = (quantity: string) =>
    setup.channels.filter((c) => c.quantity === quantity).map((c) => [c.key, c.name] as const)
  return (
    <Row
      doubtful={column.doubtful}
      off={!choice.take}
      name={choice.name}
      reason={column.reason}
      picture={
        column.role === 'left out' && !column.unit_found && !choice.take ? null : (
          <Sketch
            column={column}
            choice={choice}
            run={choice.pairs_with && choice.take ? preview.compared_with : null}
          />
        )
      }
    >
      <Select
        label={`Quantity of ${choice.name}`}
        value={choice.take ? choice.quantity : ''}
        options={[['', 'left out'], ...quantities().map((q) => [q, q] as const)]}
        onChoose={(quantity) =>
          onChoose({
            ...choice,
            take: quantity !== '',
            quantity,
            unit: unitsOf(quantity)[0] ?? '',
            pairs_with: '',
          })
        }
      />
      {choice.take && (
        <>
          <Select
            label={`Unit of ${choice.name}`}
            value={choice.unit}
            options={unitsOf(choice.quantity).map((u) => [u, u] as const)}
            onChoose={(unit) => onChoose({ ...choice, unit })}
          />
          <Select
            label={`Channel that ${choice.name} goes with`}
            value={choice.pairs_with ?? ''}
            options={[['', 'no channel'], ...of(choice.quantity)]}
            onChoose={(pairs_with) => onChoose({ ...choice, pairs_with })}
          />
          <label className="flex items-center gap-1.5 text-small">
            <input
              type="checkbox"
              aria-label={`Turn the sign of ${choice.name}`}
              checked={choice.turned ?? false}
              onChange={(e) => onChoose({ ...choice, turned: e.target.checked })}
            />
            turned
          </label>
        </>
      )}
    </Row>
  )
}

function Row(props: {
  doubtful: boolean
  off?: boolean
  name: string
  reason: string
  picture: ReactNode
  children: ReactNode
}) {
  return (
    <div className="grid min-h-19 flex-none grid-cols-[1fr_208px] border-b border-rule">
      <div className={`px-4 py-2 ${props.doubtful ? 'bg-marking-wash' : ''}`}>
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <span className={props.doubtful ? 'text-marking-ink' : 'text-moss'}>
            <Icon name={props.doubtful ? 'warn' : props.off ? 'cross' : 'tick'} size={14} />
          </span>
          <b className="figure min-w-15 font-strong">{props.name}</b>
          {props.children}
        </div>
        <p
          className={`pt-1 pl-6.5 text-small leading-4 ${props.doubtful ? 'font-number text-marking-ink' : 'text-soft'}`}
        >
          {props.reason}
        </p>
      </div>
      <div className="border-l border-rule px-3 py-2">{props.picture}</div>
    </div>
  )
}

function Select<T extends string>(props: {
  label: string
  value: T
  options: readonly (readonly [T, string])[]
  onChoose: (to: T) => void
}) {
  return (
    <select
      aria-label={props.label}
      value={props.value}
      onChange={(e) => props.onChoose(e.target.value as T)}
      className="border-b border-dotted border-soft bg-transparent pb-px text-body font-number"
    >
      {props.options.map(([value, words]) => (
        <option key={value} value={value}>
          {words}
        </option>
      ))}
    </select>
  )
}
