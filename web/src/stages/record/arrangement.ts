import type { PlacedPane } from '../../panes/Placed'

/** Which panes stand where while a run is watched. */
export const ARRANGEMENT: {
  readonly middle: (PlacedPane | PlacedPane[])[]
  readonly right: PlacedPane[]
} = {
  middle: [
    { pane: 'strips', share: 5 },
    [
      { pane: 'xy', options: { x: 'extension', y: 'force' }, share: 3 },
      { pane: 'turns', share: 3 },
      { pane: 'steps', share: 3 },
    ],
  ],
  right: [{ pane: 'digits', share: 1 }],
}
