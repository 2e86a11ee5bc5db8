"""Channels of a run over its time, one below the other."""

from collections.abc import Sequence

import numpy as np

from yoke_server.derive.figures.style import CURVES, new_figure, svg_of
from yoke_server.record.channel_of_run import channel_of_run
from yoke_server.record.models import Run
from yoke_server.record.plot_data import view
from yoke_server.record.queries import window_of

PIXELS = 900
ROW = 0.78  # inches


def figure(run: Run, keys: Sequence[str]) -> str:
    """Lowest and highest of each column of pixels; gaps stay empty."""
    drawn = new_figure(ROW * len(keys) + 0.35)
    rows = drawn.subplots(len(keys), 1, sharex=True, squeeze=False)[:, 0]
    names = []
    for axes, key, colour in zip(rows, keys, CURVES * 2, strict=False):
        channel = channel_of_run(run.pk, key)
        if channel is None:
            continue
        shown = channel.channel
        window = window_of(channel.times, None, None)
        for part in view(channel, *window, PIXELS):
            low, high = channel.chain.extremes(part.low, part.high)
            times = np.repeat(part.start_s + part.step_s * (np.arange(len(low)) + 0.5), 2)
            values = np.column_stack([low, high]).ravel()
            values = np.where(np.isfinite(values), shown.shown(values), np.nan)
            axes.plot(times, values, color=colour, linewidth=0.7)
        axes.set_ylabel(f"{shown.name}\n{shown.unit}", rotation=0, ha="right", va="center")
        axes.yaxis.set_label_coords(-0.055, 0.5)
        names.append(shown.name)
    rows[-1].set_xlabel("Time, s", loc="right")
    return svg_of(drawn, f"{', '.join(names)} over the time of {run.name}")
