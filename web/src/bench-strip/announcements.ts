import type { Announcements, UniqueIdentifier } from '@dnd-kit/core'

import type { Channel } from '../api/client'

/** What a screen reader says of a tile that is moved. */

export const HOW = {
  draggable: 'Press Space to lift the tile, the arrow keys to move it, Space to lay it down.',
}

export function announcementsOf(channels: readonly Channel[]): Announcements {
  const name = (id: UniqueIdentifier) => channels.find((c) => c.key === id)?.name ?? ''
  const place = (id: UniqueIdentifier) =>
    `place ${channels.findIndex((c) => c.key === id) + 1} of ${channels.length}`
  return {
    onDragStart: ({ active }) => `Lifted ${name(active.id)}, ${place(active.id)}.`,
    onDragOver: ({ active, over }) => over && `${name(active.id)} is over ${place(over.id)}.`,
    onDragEnd: ({ active, over }) => over && `${name(active.id)} laid down at ${place(over.id)}.`,
    onDragCancel: ({ active }) => `${name(active.id)} stays where it was.`,
  } as Announcements
}
