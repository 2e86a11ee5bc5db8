"""Many channels as a table: cells as text, taken one by one, one action in all."""
