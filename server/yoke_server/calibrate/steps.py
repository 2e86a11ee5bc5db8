"""Steps of a channel's reading: what they may be, what they do to a reading, how they filter."""

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from yoke_server.calibrate.schemas import ChainPartOut, FilterOut
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.chain import ChainPart, chain_parts, stateful_steps
from yoke_server.kinds.steps.base import ReadingStep
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import freeze, frozen_channel, setup_row
from yoke_server.setups.models import Channel, Setup

if TYPE_CHECKING:
    from yoke_core.signals.node import Node

POINTS = 160  # of a curve that is drawn
LOWEST = 1e-3  # frequency that is drawn, of the highest
STEP_SHOWN = 1.2  # times the filter's settling, that its step is drawn


def require_steps(setup: Setup, key: str, steps: Sequence[ReadingStep]) -> None:
    """Raise a 422 problem for a step that the channel cannot have, or has twice."""
    frozen = freeze(setup)
    channel = {c.key: c for c in frozen.channels}[key]
    if len({type(step) for step in steps}) < len(steps):
        raise Problem(
            422,
            f"{channel.name} would have a step twice.",
            field="steps",
            hint="Change the one that is there.",
        )
    rate_hz = frozen.rates_hz[channel.device_label]
    for step in steps:
        if lack := step.lacks(channel, frozen.channels, rate_hz):
            raise Problem(422, lack.text, field="steps", hint=lack.hint)


def chain_values(
    channel_id: int, signal: float, reading: float | None, others: Mapping[str, float]
) -> list[ChainPartOut]:
    """A channel's reading part by part, from its signal (SI) to what is shown.

    reading : what is shown now, SI; behind a filter nothing else is known at one instant
    others : readings of other channels by key, SI
    """
    row = Channel.objects.select_related("setup").get(pk=channel_id)
    channel = frozen_channel(row.setup, row.key)
    value, found = signal, [_part("Raw", None, True, signal, False)]
    places = {step.title: i for i, step in enumerate(channel.steps)}
    for part, bare in zip(chain_parts(channel), _bare_parts(channel), strict=True):
        before, value = value, part.apply(value)
        if part.steps == bare.steps:
            found.append(_part(part.title, places.get(part.title), True, value, part.in_quantity))
            continue
        found.append(_part(part.title, None, True, bare.apply(before), part.in_quantity))
        found.append(_leads(True, value))
    return [*found, *_behind_chain(channel, value, reading, others), *_off(channel)]


def _bare_parts(channel: FrozenChannel) -> list[ChainPart]:
    """The chain without what its scaling does about leads."""
    bare = channel.scaling.without_leads()
    return chain_parts(channel.model_copy(update={"scaling": bare}) if bare else channel)


def _leads(on: bool, value: float | None) -> ChainPartOut:
    part = _part("Lead resistance", None, on, value, True)
    return part.model_copy(update={"leads": True})


def _part(
    title: str, step: int | None, on: bool, value: float | None, in_quantity: bool
) -> ChainPartOut:
    known = value if value is not None and math.isfinite(value) else None
    return ChainPartOut(title=title, step=step, on=on, value=known, in_quantity=in_quantity)


def _behind_chain(
    channel: FrozenChannel, value: float | None, reading: float | None, others: Mapping[str, float]
) -> list[ChainPartOut]:
    found = []
    for step in stateful_steps(channel):
        value = reading if step.design() else _at_once(channel, step, value, others)
        found.append(_part(step.title, channel.steps.index(step), True, value, True))
    return found


def _at_once(
    channel: FrozenChannel, step: ReadingStep, value: float | None, others: Mapping[str, float]
) -> float | None:
    """What a step makes of one value; None where a channel that it needs is not known."""
    import numpy as np
    from yoke_core.signals.graph import Measured, SignalGraph

    known = {key: others[key] for key in step.channels if key in others}
    if value is None or len(known) < len(step.channels):
        return None
    node: Node = step.node(channel, Measured(channel.key))
    readings = {k: np.array([v]) for k, v in (known | {channel.key: value}).items()}
    graph = SignalGraph({"found": node})
    return float(graph.start(1.0).push(readings, follows=False)["found"][0])


def _off(channel: FrozenChannel) -> list[ChainPartOut]:
    """What is switched off: what the scaling does about leads, and steps."""
    leads = channel.scaling.without_leads() == channel.scaling
    return [
        *([_leads(False, None)] if leads else []),
        *(
            _part(step.title, place, False, None, True)
            for place, step in enumerate(channel.steps)
            if not step.on
        ),
    ]


def filter_view(channel_id: int, step: ReadingStep) -> FilterOut:
    """What a filter does at the rate of a channel; a 422 problem for what is no filter there."""
    import numpy as np
    from scipy.signal import sosfilt
    from yoke_core.signals.filter_design import (
        NOTABLE_CORNER,
        delay,
        response,
        settling_samples,
    )

    row = Channel.objects.select_related("setup").get(pk=channel_id)
    frozen = freeze(setup_row(row.setup_id))
    channel = {c.key: c for c in frozen.channels}[row.key]
    rate_hz = frozen.rates_hz[channel.device_label]
    if (design := step.design()) is None:
        raise Problem(422, f"{step.title} is no filter.", field="step", hint="Choose a filter.")
    if lack := step.lacks(channel, frozen.channels, rate_hz):
        raise Problem(422, lack.text, field="step", hint=lack.hint)
    sections = design.sections(rate_hz)
    frequencies = np.geomspace(rate_hz / 2 * LOWEST, rate_hz / 2, POINTS)
    settling = settling_samples(sections)
    times = np.unique(np.linspace(0, STEP_SHOWN * settling, POINTS).astype(int))
    answer = sosfilt(sections, np.ones(times[-1] + 1))[times]
    slow = abs(response(sections, np.array([0.0]), rate_hz)[0])
    corner = max(design.corners_hz)
    warning = (
        f"{corner:g} Hz is more than {NOTABLE_CORNER:g} of the {rate_hz:g} samples a second: "
        "near half the rate the filter falls faster than its name says."
        if corner > NOTABLE_CORNER * rate_hz
        else ""
    )
    return FilterOut(
        rate_hz=rate_hz,
        frequencies_hz=frequencies.tolist(),
        amplitudes=abs(response(sections, frequencies, rate_hz)).tolist(),
        times_s=(times / rate_hz).tolist(),
        step=answer.tolist(),
        delay_s=delay(sections, 0.0, rate_hz) if slow > 0.5 else 0.0,
        settles_s=settling / rate_hz,
        warning=warning,
    )
