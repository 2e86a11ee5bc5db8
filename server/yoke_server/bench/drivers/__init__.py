"""Drivers: how the recorder speaks to amplifiers and load frames."""
