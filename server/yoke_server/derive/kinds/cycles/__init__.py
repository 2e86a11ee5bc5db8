"""Cycles of a channel by rainflow, and the life that they leave."""

from yoke_server.derive.kinds.cycles.compute import CyclesKind

RESULT = CyclesKind()
