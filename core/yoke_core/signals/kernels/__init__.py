"""Compiled loops over samples. Imported only where a node runs."""
