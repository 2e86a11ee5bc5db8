"""Bringing Yoke Bench up on a bare Debian 12: standard library only."""
