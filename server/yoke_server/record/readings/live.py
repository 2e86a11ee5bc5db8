"""Computed streams that grow while their run is recorded: their rows, from begin to end.

What one device's samples give is stored as it is computed. All else (formulas over several
devices, runs that a recorder took up again) the worker makes when the run has ended.
"""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from yoke_server.kinds.keep_rules.base import main_of
from yoke_server.record.models import Run, Stream, StreamChannel
from yoke_server.record.readings.definitions import RunReadings, readings_of
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.signals import signals_of

if TYPE_CHECKING:
    from yoke_core.signals.node import Node


def live_nodes(setup: FrozenSetup, keys: Sequence[str] = ()) -> "dict[str, dict[str, Node]]":
    """By device, the signals of a setup that its samples alone give; of some keys, or of all."""
    signals = signals_of(setup.channels, setup.computed, setup.rates_hz)
    device_of = {c.key: c.device_label for c in setup.channels}
    found: dict[str, dict[str, Node]] = {}
    for key, node in signals.nodes.items():
        labels = {device_of[k] for k in signals.inputs[key]}
        if (not keys or key in keys) and labels == {signals.devices[key]}:
            found.setdefault(signals.devices[key], {})[key] = node
    return found


def begin_computed(run: Run) -> dict[str, int]:
    """The streams of a run that begins, by channel key; of what is defined now as it was when
    its setup was stored, and has no problem."""
    readings = readings_of(run)
    found = {}
    for label, nodes in live_nodes(readings.recorded).items():
        main = main_of(readings.recorded.keep_rules)
        home = run.streams.filter(device_label=label, rule=main[0] if main else "").first()
        if home is None:  # made of what the run keeps, once it has ended
            continue
        for key, node in nodes.items():
            if readings.signals.nodes.get(key) == node and not readings.problem(key):
                found[key] = add_computed_stream(readings, key, home).pk
    return found


def add_computed_stream(readings: RunReadings, key: str, home: Stream) -> Stream:
    """The stream of a computed channel, still without samples."""
    stream = Stream.everything.create(
        run=readings.run,
        home=home,
        device=home.device,
        device_label=home.device_label,
        rule="computed",
        rate_hz=home.rate_hz,
        fingerprint=readings.fingerprint(key),
        complete=False,
    )
    StreamChannel.objects.create(stream=stream, position=0, channel_key=key, signal="value")
    return stream


def growing(run: Run) -> dict[str, int]:
    """The streams by channel key that grow while a run is recorded."""
    streams = Stream.everything.filter(run=run, home__isnull=False, complete=False)
    return {c.channel_key: s.pk for s in streams for c in s.channels.all()}


def complete_computed(run: Run, lengths: dict[int, int], seal: str) -> None:
    """The run has ended: streams that hold a value for each sample are complete.

    lengths : samples by stream
    seal : of the run, which it gets next; definitions name it

    Others, and those whose definition has changed meanwhile, are made anew by the worker.
    """
    before = readings_of(run)
    streams = Stream.everything.filter(run=run, pk__in=lengths).select_related("home")
    by_key = {c.channel_key: s for s in streams for c in s.channels.all()}
    unchanged = [
        (key, stream)
        for key, stream in by_key.items()
        if stream.home
        and stream.home.samples == lengths[stream.pk]
        and before.fingerprint(key) == stream.fingerprint
    ]
    run.seal = seal
    after = readings_of(run)
    for key, stream in unchanged:
        Stream.everything.filter(pk=stream.pk).update(
            samples=lengths[stream.pk], complete=True, fingerprint=after.fingerprint(key)
        )
