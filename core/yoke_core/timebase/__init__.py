"""Clocks of devices against the bench's."""
