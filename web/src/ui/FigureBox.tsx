/** A figure that changes often, in a box of its own: what stands beside it is not laid out anew. */
export function FigureBox(props: { text: string; digits: number; className?: string }) {
  const { text, digits, className = '' } = props
  return (
    <span className={`figure figure-box ${className}`} style={{ width: `${digits}ch` }}>
      {text}
    </span>
  )
}
