"""Kinds of result: one module each, listed in `registry`. See docs/kinds.md."""
