interface Props {
  children: string
  /** Kinds of file that the person is offered. */
  accept: string
  onFile: (file: File) => Promise<void>
  disabled?: boolean
}

/** An action that needs a file of the person's. */
export function FileButton({ children, accept, onFile, disabled }: Props) {
  return (
    <label className="mr-2 inline-flex h-6 cursor-pointer items-center rounded border border-rule-strong bg-sheet px-2 text-small font-number focus-within:outline-2 focus-within:outline-petrol hover:bg-paper">
      {children}
      <input
        type="file"
        accept={accept}
        disabled={disabled}
        className="sr-only"
        onChange={(event) => {
          const file = event.target.files?.[0]
          event.target.value = '' // the same file may be chosen again
          if (file) void onFile(file)
        }}
      />
    </label>
  )
}
