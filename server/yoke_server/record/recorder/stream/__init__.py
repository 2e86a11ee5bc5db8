"""Samples on their way: put in order, placed in time, looked at, kept."""
