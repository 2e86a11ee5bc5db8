"""How each channel of a run is read: by its chain, or by a signal that is computed and stored.

A run's definitions are the setup of its time, the setup's computed channels as they are now, and
the run's corrections in force.
"""

import hashlib
import json
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

from pydantic import TypeAdapter

from yoke_server.kinds.chain import chain_of, stateful_steps
from yoke_server.kinds.corrections import CorrectionList
from yoke_server.kinds.corrections.base import RunCorrection
from yoke_server.record.models import Run
from yoke_server.record.queries import document_of
from yoke_server.setups.document import FrozenChannel, FrozenSetup
from yoke_server.setups.formulas import shown
from yoke_server.setups.readable import ReadableChannel, by_key, readable_channels
from yoke_server.setups.signals import Signals, signals_of, why_not

if TYPE_CHECKING:
    from yoke_core.signals.chain import SignalChain

ENGINE = 1  # raised when signals are computed otherwise than before
CORRECTIONS = "corrections"  # in the changes of a run
_LIST: TypeAdapter[list[RunCorrection]] = TypeAdapter(CorrectionList)


def corrections_of(run: Run) -> list[RunCorrection]:
    """All corrections of a run in their order, also those that are off; the newest list counts."""
    rows = [row.changes for row in run.corrections.all() if CORRECTIONS in row.changes]
    return _LIST.validate_json(json.dumps(rows[-1][CORRECTIONS])) if rows else []


@dataclass(frozen=True)
class RunReadings:
    """The channels of a run as they are read now.

    recorded : the setup as it stood, without the channels that were off
    corrections : those that are on, in their order
    """

    run: Run
    recorded: FrozenSetup
    corrections: list[RunCorrection] = field(default_factory=list)

    @cached_property
    def setup(self) -> FrozenSetup:
        """The setup with the settings as corrected, and the computed channels as they are now."""
        channels = [self._corrected(c) for c in self.recorded.channels]
        now = {c.key: c for c in self.run.setup.computed}
        then = {c.key: c for c in self.recorded.computed}
        computed = list((then | now).values())
        return self.recorded.model_copy(update={"channels": channels, "computed": computed})

    def _corrected(self, channel: FrozenChannel) -> FrozenChannel:
        for correction in self.corrections_of(channel.key):
            if changes := correction.settings(channel):
                channel = channel.model_copy(update=dict(changes))
        return channel

    def corrections_of(self, key: str) -> list[RunCorrection]:
        """The corrections of a channel that are on."""
        return [c for c in self.corrections if key in c.channels]

    @cached_property
    def measured(self) -> dict[str, FrozenChannel]:
        """The measured channels by key, as corrected."""
        return {c.key: c for c in self.setup.channels}

    @cached_property
    def channels(self) -> list[ReadableChannel]:
        return readable_channels(self.setup)

    def channel(self, key: str) -> ReadableChannel | None:
        return by_key(self.channels, key)

    def formula(self, key: str) -> str:
        """A computed channel's formula as people read it."""
        return shown(self.setup.channels, self.setup.computed)[key]

    def time_factor(self, device: str) -> float:
        """By which the times of a device's stream are multiplied."""
        factor = 1.0
        for correction in self.corrections:
            keys = {c.key for c in self.recorded.channels if c.device_label == device}
            if keys & set(correction.channels):
                factor *= correction.time_factor
        return factor

    def rate_hz(self, device: str) -> float:
        """Samples a second of a device's stream, by its own clock."""
        return self.recorded.rates_hz[device] / self.time_factor(device)

    # What is computed

    @cached_property
    def signals(self) -> Signals:
        """Nodes over chain readings; over corrected readings where a channel's corrections are
        no scaling."""
        rates = {label: self.rate_hz(label) for label in self.recorded.rates_hz}
        opaque = frozenset(c.key for c in self.setup.channels if self.has_operations(c.key))
        return signals_of(self.setup.channels, self.setup.computed, rates, opaque)

    def has_operations(self, key: str) -> bool:
        """Whether corrections of a channel are more than a scaling of its chain's readings."""
        operations = [c for c in self.corrections_of(key) if c.operation(_anywhere)]
        channel = self.measured.get(key)
        scaled = channel is not None and not stateful_steps(channel)
        return bool(operations) and not (scaled and all(c.line() for c in operations))

    def is_computed(self, key: str) -> bool:
        """Whether a channel's readings are a stored stream of their own."""
        channel = self.measured.get(key)
        return channel is None or bool(stateful_steps(channel)) or self.has_operations(key)

    def chain(self, key: str) -> "SignalChain":
        """From a measured channel's raw samples to its reading, as far as that is a scaling."""
        from yoke_core.signals.chain import SignalChain

        chain = chain_of(self.measured[key])
        if self.is_computed(key):
            return chain
        lines = [line for c in self.corrections_of(key) if (line := c.line())]
        return SignalChain((*chain.steps, *lines))

    def device(self, key: str) -> str:
        """The device whose samples a channel is read at; none of a computed one that has a
        problem."""
        if channel := self.measured.get(key):
            return channel.device_label
        return self.signals.devices.get(key, "")

    def inputs(self, key: str) -> frozenset[str]:
        """The channels that a computed one is computed of; also itself, of a measured one."""
        return self.signals.inputs.get(key, frozenset({key}))

    def problem(self, key: str) -> str:
        """Why there is no reading of a channel; empty where there is one."""
        return self.signals.faults.get(key) or self._why_not(key)

    def _why_not(self, key: str) -> str:
        if (node := self.signals.nodes.get(key)) is None:
            return ""
        name = channel.name if (channel := self.channel(key)) else key
        why = why_not(node, {}, self.rate_hz(self.device(key)))
        return f"{name}: {why}" if why else ""

    # What it depends on

    def fingerprint(self, key: str) -> str:
        """SHA-256 of all that a channel's readings follow from."""
        text = json.dumps(self.definition(key), sort_keys=True)
        return hashlib.sha256(text.encode()).hexdigest()

    def definition(self, key: str) -> dict[str, object]:
        """What a channel's readings follow from, in the open."""
        device = self.device(key)
        found: dict[str, object] = {
            "engine": ENGINE,
            "seal": self.run.seal,
            "rate_hz": self.rate_hz(device) if device else None,
            "corrections": [_plain(c) for c in self.corrections_of(key)],
        }
        if node := self.signals.nodes.get(key):
            found["signal"] = repr(node)
        others = self.inputs(key) & self.measured.keys()
        found["inputs"] = {
            k: self._chain_definition(k)
            if k == key or not self.has_operations(k)
            else self.fingerprint(k)
            for k in sorted(others)
        }
        return found

    def _chain_definition(self, key: str) -> object:
        channel = self.measured[key]
        of = {"wiring", "scaling", "polarity", "zero", "tare", "signal"}
        lines = [_plain(c) for c in self.corrections_of(key) if c.line()]
        steps = [s.model_dump(mode="json") for s in channel.steps if s.on]
        chain = channel.model_dump(mode="json", include=of)
        return chain | {
            "steps": steps,
            "corrections": lines,
            "rate_hz": self.rate_hz(channel.device_label),
        }

    def definitions(self, keys: Iterable[str]) -> dict[str, dict[str, object]]:
        """The definitions of those channels that are not read by the chain they were recorded
        with."""
        known = [key for key in keys if self.channel(key)]
        return {key: self.definition(key) for key in known if not self._as_recorded(key)}

    def _as_recorded(self, key: str) -> bool:
        if self.is_computed(key) or self.corrections_of(key):
            return False
        return self.time_factor(self.device(key)) == 1.0


def _anywhere(seconds: float) -> int:
    return 0


def _plain(correction: RunCorrection) -> dict[str, object]:
    """A correction without what people call it."""
    return correction.model_dump(mode="json", exclude={"key", "channels", "on"})


def readings_of(run: Run) -> RunReadings:
    """A run as it is read now; its setup and its corrections are looked up where they are not
    known yet."""
    on = [c for c in corrections_of(run) if c.on]
    return RunReadings(run, document_of(run), on)


def version_of(run: Run) -> str:
    """Which definitions of a run's readings are in force: another text for others."""
    corrections = [row.pk for row in run.corrections.all() if CORRECTIONS in row.changes]
    formulas = [(c.key, c.formula, c.unit, c.name, c.decimals) for c in run.setup.computed]
    text = json.dumps([corrections[-1:], formulas, run.state, run.seal])
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def setup_of(run: Run) -> FrozenSetup:
    """The setup of a run with what was put right of its channels since."""
    return readings_of(run).setup


def channels_of(run: Run) -> list[ReadableChannel]:
    """The channels of a run as they are read, computed ones last."""
    return readings_of(run).channels
