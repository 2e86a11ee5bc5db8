"""Many channels as a table: cells as text, taken one by one, one deed in all."""
