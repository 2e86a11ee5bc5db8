import { Button } from '../../ui/Button'
import type { Choices, ImportPreview } from '../../api/files'
import { Segments } from '../../ui/Fact'
import { Choice } from '../../ui/Choice'

const SEPARATORS = [
  [';', 'semicolon'],
  [',', 'comma'],
  ['\t', 'tab'],
  ['|', 'bar'],
  [' ', 'blanks'],
] as const
const DECIMALS = [
  ['.', 'point'],
  [',', 'comma'],
] as const
type Written = Pick<Choices, 'separator' | 'decimal'>

interface Props {
  preview: ImportPreview
  /** A file written otherwise has other columns: what was chosen of them is past. */
  onChoose: (written: Choices) => void
}

/** The file as it is, and how it is written. */
export function FileSide({ preview, onChoose }: Props) {
  const { separator, decimal, doubtful } = preview.choices as Required<Choices>
  const write = (change: Written) =>
    Promise.resolve(
      onChoose({ separator, decimal, ...change, columns: undefined, time: undefined }),
    )
  return (
    <section className="col overflow-y-auto!" aria-label="The file as it is">
      <div className="border-b border-rule px-4 py-2">
        <Choice
          label="Separator"
          value={separator!}
          options={SEPARATORS}
          onChoose={(to) => write({ separator: to })}
        />
        <Choice
          label="Decimal sign"
          value={decimal!}
          options={DECIMALS.filter(([sign]) => sign !== separator)}
          onChoose={(to) => write({ decimal: to })}
        />
        {preview.separator_doubt && (
          <div
            role="alert"
            className="mt-1 rounded border border-dashed border-marking px-2 py-1.5"
          >
            <p className="text-small leading-4 text-marking-ink">
              Nobody can tell: {preview.separator_doubt}.
            </p>
            <Button size={24} className="mt-1" onClick={() => void write({})}>
              It is read right as it is
            </Button>
          </div>
        )}
      </div>
      <ol className="border-b border-rule py-1">
        {preview.lines.map(({ line, text }) => (
          <Line key={line} line={line} text={text} role={roleOf(line, preview)} />
        ))}
      </ol>
      <Doubts preview={preview} doubtful={doubtful} onChoose={(to) => onChoose({ doubtful: to })} />
    </section>
  )
}

function roleOf(line: number, preview: ImportPreview): string {
  if (line === preview.names_line) return 'names'
  if (line === preview.units_line) return 'units'
  return line === preview.first_line ? 'figures' : ''
}

function Line({ line, text, role }: { line: number; text: string; role: string }) {
  const head = role === 'names' || role === 'units'
  return (
    <li className={`flex h-4.75 items-center text-small ${head ? 'bg-well font-strong' : ''}`}>
      <span className="w-14 flex-none pl-4 text-note text-soft">{role}</span>
      <span className="figure w-10 flex-none pr-3 text-right text-note text-soft">{line}</span>
      <span className="figure truncate">{text}</span>
    </li>
  )
}

interface DoubtProps {
  preview: ImportPreview
  doubtful: 'drop' | 'bridge'
  onChoose: (to: 'drop' | 'bridge') => void
}

/** What is no number, under its line, and what becomes of it. */
function Doubts({ preview, doubtful, onChoose }: DoubtProps) {
  if (!preview.doubt_count)
    return <p className="px-4 py-3 text-small text-soft">Every field is a number.</p>
  const more = preview.doubt_count - preview.doubts.length
  return (
    <div className="bg-signal-wash px-4 py-3 text-small leading-4.25">
      <ul className="flex flex-col gap-1 pb-2">
        {preview.doubts.slice(0, 8).map((d) => (
          <li key={`${d.line} ${d.column}`}>
            <b className="font-strong text-signal">
              Line {d.line}
              {d.column != null && `, ${nameOf(preview, d.column)}`}
            </b>
            : {d.why} {d.text && <span className="figure">{d.text}</span>}
          </li>
        ))}
        {preview.doubts.length > 8 && (
          <li>and {preview.doubts.length - 8 + Math.max(more, 0)} more</li>
        )}
      </ul>
      <Segments
        label="Lines with such fields"
        value={doubtful}
        options={[
          ['drop', 'Leave these lines out'],
          ['bridge', 'Bridge by straight lines'],
        ]}
        onChange={onChoose}
      />
      <p className="pt-1 text-soft">
        {doubtful === 'drop'
          ? 'The run has a gap there.'
          : 'The run says so in its notes; lines with other columns are left out all the same.'}
      </p>
    </div>
  )
}

const nameOf = (preview: ImportPreview, place: number): string =>
  preview.choices.columns.find((c) => c.place === place)?.name ?? `column ${place + 1}`
