"""Load histories: turning points, cycles by rainflow, damage and life."""
