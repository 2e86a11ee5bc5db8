interface Props {
  label: string
  placeholder: string
  value: string
  onChange: (words: string) => void
  className?: string
}

/** Words that stand in what is looked for; the server looks. */
export function SearchField({ label, placeholder, value, onChange, className = '' }: Props) {
  return (
    <input
      value={value}
      onChange={(e) => onChange(e.target.value)}
      maxLength={120}
      placeholder={placeholder}
      aria-label={label}
      className={`h-7 rounded border border-rule-strong bg-paper px-2 ${className}`}
    />
  )
}
