"""Tension tests of metals at room temperature, after ISO 6892-1."""
