import { Icon } from './Icon'
import { dismiss, useNotices } from './notices'

export function Notices() {
  const notices = useNotices()
  return (
    <div
      className="fixed top-1.5 left-1/2 z-50 flex w-95 -translate-x-1/2 flex-col gap-2"
      role="status"
    >
      {notices.map((n) => (
        <div
          key={n.id}
          role={n.tone === 'bad' ? 'alert' : undefined}
          className={`flex items-start gap-2 rounded border-l-4 bg-sheet p-3 shadow-lifted ${
            n.tone === 'bad' ? 'border-signal' : 'border-moss'
          }`}
        >
          <span className={n.tone === 'bad' ? 'text-signal' : 'text-moss'}>
            <Icon name={n.tone === 'bad' ? 'warn' : 'tick'} />
          </span>
          <div className="flex-1">
            <b className="font-strong">{n.title}</b>
            {n.hint && <p className="text-soft">{n.hint}</p>}
          </div>
          <button
            type="button"
            aria-label="Close"
            onClick={() => dismiss(n.id)}
            className="text-soft"
          >
            <Icon name="cross" size={12} />
          </button>
        </div>
      ))}
    </div>
  )
}
