"""Many channels as a table: each cell is text that is accepted or refused; all are one action."""
