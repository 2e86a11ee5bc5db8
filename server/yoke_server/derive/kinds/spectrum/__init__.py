"""Amplitudes and power density of a channel over frequency."""

from yoke_server.derive.kinds.spectrum.compute import SpectrumKind

RESULT = SpectrumKind()
