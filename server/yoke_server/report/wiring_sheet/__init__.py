"""The wiring sheet: what goes to which pin of which input, to take to the bench."""
