const PATHS = {
  tick: <path d="M3 8.5l3.4 3.4L13 4.6" strokeWidth="2" />,
  cross: <path d="M4 4l8 8M12 4l-8 8" strokeWidth="2" />,
  warn: (
    <>
      <path d="M8 2L15 14H1Z" strokeWidth="1.6" strokeLinejoin="round" />
      <path d="M8 6.4v4M8 11.2v1.6" strokeWidth="1.6" />
    </>
  ),
  find: (
    <>
      <circle cx="7" cy="7" r="4.4" strokeWidth="1.6" />
      <path d="M10.4 10.4L14 14" strokeWidth="1.8" />
    </>
  ),
  undo: (
    <>
      <path d="M3 6h7a3.5 3.5 0 010 7H6" strokeWidth="1.6" />
      <path d="M6 2.6L2.6 6 6 9.4" strokeWidth="1.6" />
    </>
  ),
  redo: (
    <>
      <path d="M13 6H6a3.5 3.5 0 000 7h4" strokeWidth="1.6" />
      <path d="M10 2.600L13.4 6 10 9.4" strokeWidth="1.6" />
    </>
  ),
  flag: <path d="M4 15V2h8l-2.4 3.2L12 8.400H4" strokeWidth="1.6" />,
  next: <path d="M4 2.500v11L13 8z" fill="currentColor" strokeWidth="1" />,
  open: <circle cx="8" cy="8" r="5" strokeWidth="1.6" />,
  up: <path d="M3 11l5-5 5 5" strokeWidth="1.8" />,
  down: <path d="M3 6l5 5 5-5" strokeWidth="1.8" />,
  grip: <path d="M5.5 3v10M10.5 3v10" strokeWidth="2" strokeDasharray="2 2" />,
  larger: <path d="M2.5 6V2.500H6M10 13.5h3.5V10M3 3l4 4M13 13L9 9" strokeWidth="1.5" />,
  smaller: <path d="M3 7h4V3M13 9H9v4M2.5 2.500L7 7M13.5 13.5L9 9" strokeWidth="1.5" />,
  settings: (
    <>
      <path d="M2 4.500h12M2 11.500h12" strokeWidth="1.5" />
      <path d="M10 2.500v4M5.5 9.500v4" strokeWidth="2.2" />
    </>
  ),
  yoke: (
    <>
      <path d="M1 5.2C3.4 2.8 5.6 4.6 8 4.600s4.6-1.8 7 .6" strokeWidth="1.8" />
      <path
        d="M2.7 5.400v4a1.9 1.9 0 003.8 0V5.200M9.5 5.200v4.200a1.9 1.9 0 003.8 0v-4"
        strokeWidth="1.5"
      />
    </>
  ),
} as const

export type IconName = keyof typeof PATHS

export function Icon({ name, size = 16 }: { name: IconName; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 16 16"
      fill="none"
      stroke="currentColor"
      className="flex-none"
      aria-hidden
    >
      {PATHS[name]}
    </svg>
  )
}

export function Mark() {
  return (
    <svg width="40" height="30" viewBox="0 0 40 30" fill="none" role="img" aria-label="Yoke Bench">
      <path
        d="M3 8.500C9 2.5 14 7 20 7s11-4.5 17 1.5"
        stroke="var(--ink)"
        strokeWidth="2.8"
        strokeLinecap="round"
      />
      <g transform="translate(9,6)">
        <path d="M11 1L21.5 11.5 11 22 .5 11.500Z" stroke="var(--ink)" strokeWidth="1.2" />
        <path d="M.8 11.500L11 1.3 21.2 11.5" stroke="var(--petrol)" strokeWidth="3.2" />
      </g>
    </svg>
  )
}
