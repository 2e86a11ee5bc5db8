import type { LibraryLine } from '../api/library'
import { Button } from '../ui/Button'
import { InputSign } from '../ui/Diamond'
import { row } from '../ui/row'

interface Props {
  lines: readonly LibraryLine[]
  /** By kind, where all of a kind are wanted: there may be more than are here. */
  counts?: Record<string, number>
  chosen: number | null
  onChoose: (id: number) => void
  more?: () => void
}

/** Instruments under their kinds: what they give, how their certificate stands, where they are. */
export function SensorList({ lines, counts, chosen, onChoose, more }: Props) {
  const kinds = [...new Set(lines.map((l) => l.kind))]
  return (
    <div className="min-h-0 flex-1 overflow-auto">
      <table className="grid-table">
        <thead className="sticky top-0 bg-sheet">
          <tr>
            <th className="w-9">
              <span className="sr-only">Bridge</span>
            </th>
            <th>Serial</th>
            <th>Name</th>
            <th style={{ textAlign: 'right' }}>Gives</th>
            <th className="hidden 2xl:table-cell">Calibrated</th>
            <th colSpan={2}>Due</th>
            <th>Where now</th>
          </tr>
        </thead>
        {kinds.map((kind) => (
          <tbody key={kind}>
            <tr className="bg-paper">
              <td colSpan={8} className="h-5.5">
                <b className="inline-block font-strong first-letter:uppercase">{kind}</b>{' '}
                <span className="text-soft">
                  {counts?.[kind] ?? lines.filter((l) => l.kind === kind).length}
                </span>
              </td>
            </tr>
            {lines
              .filter((l) => l.kind === kind)
              .map((l) => (
                <Row key={l.id} line={l} chosen={l.id === chosen} onChoose={() => onChoose(l.id)} />
              ))}
          </tbody>
        ))}
      </table>
      {more && (
        <p className="p-4">
          <Button onClick={more}>More instruments</Button>
        </p>
      )}
    </div>
  )
}

/** What it gives, in the words of its certificate. */
function gives({ record: r }: LibraryLine): string {
  if (r.rated_output) return `${r.rated_output} mV/V at ${r.capacity}`
  if (r.gauge_factor) return `${r.resistance} Ω, k ${r.gauge_factor}`
  if (r.at_20_ma) return `${r.at_4_ma} to ${r.at_20_ma}`
  if (r.full_output) return `${r.full_output} V at ${r.capacity}`
  return r.nominal ? `${r.nominal} Ω at 0 °C` : ''
}

function Row(props: { line: LibraryLine; chosen: boolean; onChoose: () => void }) {
  const { line, chosen, onChoose } = props
  const state = line.calibration_status.status
  const tone = state === 'overdue' ? 'text-signal' : state === 'soon' ? 'text-marking-ink' : ''
  return (
    <tr
      onClick={onChoose}
      aria-selected={chosen}
      className={row({ chosen: chosen, className: 'h-7.5 cursor-pointer' })}
    >
      <td className="pl-4!">
        <InputSign signal={line.signal} size={14} active={line.active_arms} />
      </td>
      <td>
        <button type="button" className="text-body font-strong" onClick={onChoose}>
          {line.serial}
        </button>
      </td>
      <td className="max-w-41 truncate 2xl:max-w-65" title={line.name}>
        {line.name}
      </td>
      <td className="text-right">{gives(line)}</td>
      <td className="figure hidden 2xl:table-cell">{line.calibrated_on ?? ''}</td>
      <td className="w-14 pr-0!">
        <Term line={line} />
      </td>
      <td className={`${tone} ${tone ? 'font-strong' : 'figure'}`}>
        {line.calibration_status.words}
      </td>
      <td className="max-w-27.5 truncate">
        {line.where ? (
          <b className="font-strong">{line.where}</b>
        ) : (
          <span className="text-soft">{line.place || 'in store'}</span>
        )}
      </td>
    </tr>
  )
}

/** The term from calibration to due date: thick is what has passed, an arrow is beyond it. */
function Term({ line }: { line: LibraryLine }) {
  if (!line.due_on || !line.calibrated_on) return null
  const state = line.calibration_status.status
  const tone =
    state === 'overdue'
      ? 'var(--signal)'
      : state === 'soon'
        ? 'var(--marking-ink)'
        : 'var(--ink-soft)'
  const end = 2 + 42 * line.calibration_status.elapsed
  return (
    <svg width="52" height="12" viewBox="0 0 52 12" aria-hidden>
      <path d="M2 2V10M44 2V10M2 6H44" stroke="var(--rule-strong)" fill="none" />
      <path d={`M2 6H${end}`} stroke={tone} strokeWidth="4" />
      {state === 'overdue' && <path d="M44 1L51 6L44 11Z" fill={tone} />}
    </svg>
  )
}
