"""A setup as plain data: what a revision keeps for good and the recorder works with.

The shape has a version. A document of an older one is read through `UPCASTS`, step by step;
tests keep a golden document of each version.
"""

import hashlib
import json
from collections.abc import Callable, Mapping, Sequence
from datetime import date, datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from yoke_server.kinds.channel_specs import ConditioningSpec, ScalingSpec, WiringSpec
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.kinds.guards import GuardSpec
from yoke_server.kinds.inputs.grid import Grid
from yoke_server.kinds.keep_rules import KeepRuleSpec, default_rules
from yoke_server.kinds.motions import MotionSpec
from yoke_server.kinds.shunts import ShuntResistor
from yoke_server.kinds.specimens import SpecimenSpec
from yoke_server.kinds.steps import StepSpec
from yoke_server.kinds.stops import StopSpec
from yoke_server.kinds.triggers import TriggerSpec
from yoke_server.kinds.triggers.at_once import AtOnce
from yoke_server.setups.lists import AskedList, BatchList

SCHEMA_VERSION = 7


PolarityName = Literal["as wired", "cores swapped", "turned"]


SCALING_FIELDS = {"scaling", "polarity", "steps"}
DISPLAY = ("name", "unit", "decimals")


class FrozenChannel(BaseModel):
    """One channel with its input, its specs, its steps, zero, tare and shunt check."""

    model_config = ConfigDict(frozen=True)

    key: str
    name: str
    device_label: str
    device_serial: str
    input_number: int
    signal: str
    sensor_name: str
    sensor_serial: str
    calibrated_on: date | None
    due_on: date | None
    quantity: str
    wiring: WiringSpec
    conditioning: ConditioningSpec
    scaling: ScalingSpec
    polarity: PolarityName
    steps: list[StepSpec]
    recorded: bool = True
    zero_each_run: bool = False
    zero_by_itself: bool = False
    grid: Grid | None
    zero: float | None
    zeroed_at: datetime | None
    tare: float | None
    tared_at: datetime | None
    shunt_expected_mv_v: float | None
    shunt_measured_mv_v: float | None
    shunt_at: datetime | None
    shunt_resistor: ShuntResistor | None = None
    unit: str
    decimals: int

    def with_keys(self, keys: Mapping[str, str]) -> "FrozenChannel":
        """The same among channels of other keys; ``keys`` are the new by the old."""
        steps = [step.with_channels(keys) for step in self.steps]
        return self.model_copy(update={"key": keys[self.key], "steps": steps})

    def measures_as(self, other: "FrozenChannel") -> bool:
        """Whether the two differ at most in how their readings are shown."""
        return self.model_copy(update={n: getattr(other, n) for n in DISPLAY}) == other


class FrozenSpecimen(BaseModel):
    """The test piece: its name, and what it is."""

    model_config = ConfigDict(frozen=True)

    specimen: str
    piece: SpecimenSpec


class FrozenSetup(BaseModel):
    """A setup at one revision."""

    model_config = ConfigDict(frozen=True)

    schema_version: Literal[7] = 7
    setup_id: int
    name: str
    project: str
    bench: str
    run_name_pattern: str
    rates_hz: dict[str, float]  # by device
    specimen: FrozenSpecimen
    motion: MotionSpec
    stops: list[StopSpec]
    guards: list[GuardSpec] = []
    keep_rules: list[KeepRuleSpec] = Field(default_factory=default_rules)
    trigger: TriggerSpec = Field(default_factory=AtOnce)
    batch: BatchList = []
    asked: AskedList = []
    channels: list[FrozenChannel]
    computed: list[ComputedChannel]

    def channel(self, quantity: str) -> FrozenChannel | None:
        """The first channel that measures ``quantity``."""
        return next((c for c in self.channels if c.quantity == quantity), None)

    @property
    def as_recorded(self) -> "FrozenSetup":
        """As a run takes it: without the channels that are off."""
        return self.model_copy(update={"channels": [c for c in self.channels if c.recorded]})

    def of_device(self, label: str) -> list[FrozenChannel]:
        return [c for c in self.channels if c.device_label == label]


GRIDS = 3  # of a rosette


def rosettes_of(channels: Sequence[FrozenChannel]) -> dict[str, list[FrozenChannel]]:
    """The grids of each rosette that is wired whole, in the order of their inputs."""
    found: dict[str, list[FrozenChannel]] = {}
    for channel in channels:
        if channel.grid:
            found.setdefault(channel.grid.rosette, []).append(channel)
    return {name: grids for name, grids in found.items() if len(grids) == GRIDS}


def rosette_key(grids: Sequence[FrozenChannel]) -> str:
    """By which the live readings name a rosette: of one setup only, as a channel's key is."""
    return f"{grids[0].key}-e1"


Document = dict[str, Any]


def _from_1(old: Document) -> Document:
    """Version 1 knew one amplifier, one rate, and channels by the number of their row."""
    channels = []
    for channel in old["channels"]:
        new = {k: v for k, v in channel.items() if k not in ("id", *_RENAMED_IN_2)}
        new |= {name: channel[was] for was, name in _RENAMED_IN_2.items()}
        new |= {"key": f"row-{channel['id']}", "signal": "bridge ratio"}
        channels.append(new | {"tare": None, "tared_at": None})
    rates = {c["device_label"]: old["rate_hz"] for c in channels}
    specimen = {"specimen": "", "width_m": 0.0, "thickness_m": 0.0, "gauge_length_m": 0.0}
    kept = {k: v for k, v in old.items() if k not in ("rate_hz", "version")}
    more = {"schema_version": 2, "rates_hz": rates, "specimen": specimen, "run_name_pattern": ""}
    return kept | more | {"channels": channels}


_RENAMED_IN_2 = {"amplifier_label": "device_label", "amplifier_serial": "device_serial"}


def _from_2(old: Document) -> Document:
    """Version 2 knew bridges only, each field in a column of its own, signals in mV/V."""
    channels = [specs_of_columns(c) for c in old["channels"]]
    return old | {"schema_version": 3, "channels": channels}


def specs_of_columns(old: Document) -> Document:
    """A channel's columns of version 2 as specs; what is no spec stays as it is."""
    zero = old.get("zero_mv_v")
    new = {k: v for k, v in old.items() if k not in _COLUMNS_OF_2}
    new["zero"] = None if zero is None else zero * 1e-3
    lead = {k: old[k] for k in ("lead_length_m", "lead_ohm_per_m") if k in old}
    new["wiring"] = lead | {
        "kind": "bridge",
        "circuit": old["arrangement"],
        "wires": old["wires"],
        "resistance_ohm": old["resistance_ohm"],
    }
    new["conditioning"] = {
        "kind": "bridge",
        "excitation_v": old["excitation_v"],
        "range_mv_v": old["range_mv_v"],
    }
    new["scaling"] = _scaling_of_columns(old)
    return new


def _scaling_of_columns(old: Document) -> Document:
    kind = old["scaling_kind"]
    if kind == "strain":
        poisson = 0.3 if old["poisson_ratio"] is None else old["poisson_ratio"]
        return {"kind": "gauge", "gauge_factor": old["gauge_factor"], "poisson_ratio": poisson}
    if kind == "rated_output":
        rated = old["rated_output_mv_v"] * 1e-3
        return {"kind": kind, "rated_output": rated, "capacity": old["capacity"]}
    return {
        "kind": kind,
        "signal_1": old["point_1_mv_v"] * 1e-3,
        "value_1": old["point_1_value"],
        "signal_2": old["point_2_mv_v"] * 1e-3,
        "value_2": old["point_2_value"],
    }


_COLUMNS_OF_2 = {
    "arrangement", "wires", "resistance_ohm", "excitation_v", "range_mv_v", "lead_length_m",
    "lead_ohm_per_m", "scaling_kind", "gauge_factor", "poisson_ratio", "rated_output_mv_v",
    "capacity", "point_1_mv_v", "point_1_value", "point_2_mv_v", "point_2_value", "zero_mv_v",
}  # fmt: skip


def _from_3(old: Document) -> Document:
    """Version 3 knew flat coupons only, pulled until the force drops."""
    channels = [c | {"grid": None} for c in old["channels"]]
    name = old["specimen"]["specimen"]
    specimen = {"specimen": name, "piece": piece_of_lengths(old["specimen"])}
    kept = {k: v for k, v in old.items() if k not in _COLUMNS_OF_3}
    more = {"schema_version": 4, "specimen": specimen, "channels": channels}
    return kept | more | programme_of_columns(old)


_COLUMNS_OF_3 = {"pull_speed_m_s", "travel_limit_m", "force_drop", "arm_force_n"}


def piece_of_lengths(old: Document) -> Document:
    """A flat coupon's columns as a spec; a part where none were known."""
    lengths = {k: old[k] for k in ("width_m", "thickness_m", "gauge_length_m")}
    return {"kind": "flat", **lengths} if all(lengths.values()) else {"kind": "part"}


def programme_of_columns(old: Document) -> Document:
    """A pull's columns of version 3 as motion and stops."""
    return {
        "motion": {
            "kind": "ramp",
            "speed_m_s": old["pull_speed_m_s"],
            "travel_limit_m": old["travel_limit_m"],
        },
        "stops": [{"kind": "force_drop", "share": old["force_drop"], "arm_n": old["arm_force_n"]}],
    }


def _from_4(old: Document) -> Document:
    """Version 4 turned the signal of a bridge, and the quantity of all else."""
    channels = [
        {k: v for k, v in c.items() if k != "reversed"} | {"polarity": polarity_of(c)}
        for c in old["channels"]
    ]
    return old | {"schema_version": 5, "channels": channels}


def polarity_of(old: Document) -> str:
    """Of a channel that was reversed, or not."""
    if not old["reversed"]:
        return "as wired"
    return "cores swapped" if old["wiring"]["kind"] == "bridge" else "turned"


def _from_5(old: Document) -> Document:
    """Version 5 knew no computed channels."""
    return old | {"schema_version": 6, "computed": []}


def _from_6(old: Document) -> Document:
    """Version 6 knew no steps of a reading."""
    channels = [c | {"steps": []} for c in old["channels"]]
    return old | {"schema_version": 7, "channels": channels}


UPCASTS: dict[int, Callable[[Document], Document]] = {
    1: _from_1,
    2: _from_2,
    3: _from_3,
    4: _from_4,
    5: _from_5,
    6: _from_6,
}


def read_document(document: Document) -> FrozenSetup:
    """A stored document of any version as the present shape."""
    while (version := document["schema_version"]) != SCHEMA_VERSION:
        document = UPCASTS[version](document)
    return FrozenSetup.model_validate(document)


def fingerprint_of(document: Document) -> str:
    """SHA-256 of the document in one form of writing."""
    text = json.dumps(document, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()
