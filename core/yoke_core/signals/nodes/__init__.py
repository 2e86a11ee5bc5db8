"""The kinds of nodes of a signal graph."""
