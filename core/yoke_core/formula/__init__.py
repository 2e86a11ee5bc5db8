"""Formulas: a small language for computed channels, with a unit for every part."""
