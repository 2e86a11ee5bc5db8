"""Figure of a spectrum: amplitudes over frequency, their peaks named."""

from typing import Any

import numpy as np

from yoke_server.common.units import unit
from yoke_server.derive.figures.style import CURVES, name_axes, new_figure, svg_of
from yoke_server.derive.kinds.base import Columns


def figure(columns: Columns, details: Any, parameters: Any) -> str:
    drawn = new_figure(2.4)
    axes = drawn.subplots()
    factor = unit(details["unit"]).factor
    hz, amplitude = columns["frequency"][1:], columns["amplitude"][1:] / factor
    axes.semilogy(hz, np.maximum(amplitude, 1e-30), color=CURVES[0], linewidth=0.8)
    highest = float(amplitude.max(initial=1e-30))
    axes.set_ylim(highest * 1e-5, highest * 3)
    for peak in details["peaks"]:
        at, value = peak["hz"], peak["value"] / factor
        axes.annotate(f"{at:.4g} Hz", (at, value), fontsize=6, ha="center", va="bottom")
    name_axes(axes, "Frequency, Hz", f"Amplitude of {details['channel']}, {details['unit']}")
    words = f"{details['window'].replace('_', ' ')} window, {details['parts']} parts"
    return svg_of(drawn, f"Spectrum of {details['channel']}, {words}")
