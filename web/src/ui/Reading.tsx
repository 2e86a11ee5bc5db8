/** A measured figure; from 22 px up its point is drawn narrow so that it reads as one number. */
export function Reading({ text, className = '' }: { text: string; className?: string }) {
  const at = text.indexOf('.')
  return (
    <span className={`figure ${className}`}>
      {at < 0 ? (
        text
      ) : (
        <>
          {text.slice(0, at)}
          <span className="point">.</span>
          {text.slice(at + 1)}
        </>
      )}
    </span>
  )
}
