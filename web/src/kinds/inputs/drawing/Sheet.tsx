import type { ReactNode } from 'react'

import type { DrawingProps } from '../input'

interface Props extends DrawingProps {
  /** What the device is called: amplifier, module. */
  make: string
  height: number
  children: ReactNode
}

/** The drawing's paper: as large as the room allows, the device as a panel at the right. */
export function Sheet({ channel, device, make, height, children }: Props) {
  return (
    <svg
      viewBox={`0 0 640 ${height}`}
      className="mx-auto block h-full w-full"
      role="img"
      aria-label={`Wiring of ${channel.name}`}
    >
      <rect
        x="390"
        y="36"
        width="238"
        height={height - 96}
        rx="3"
        fill="var(--paper)"
        stroke="var(--rule-strong)"
      />
      <text x="618" y="56" textAnchor="end" fontSize="12" fontWeight="620">
        {make} {device.label}, input {channel.input_number}
      </text>
      {children}
    </svg>
  )
}
