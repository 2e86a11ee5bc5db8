"""What one revision of a setup changed, a line a thing."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any

from yoke_server.common.http.problems import unit_of, words
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.formulas import shown

# What is measured or follows from elsewhere: it has its own history.
NO_SETTING = frozenset({
    "key", "zeroed_at", "tared_at", "shunt_at", "shunt_resistor", "sensor_name", "calibrated_on",
    "due_on",
    "device_serial", "signal", "schema_version", "setup_id", "channels", "computed", "project",
    "bench",
})  # fmt: skip


LISTED = 20  # numbers that are said one by one


@dataclass(frozen=True, slots=True)
class Difference:
    """One field of a channel, or of the setup itself (``subject`` empty), before and after."""

    subject: str
    field: str
    before: str
    after: str


def differences(before: FrozenSetup, after: FrozenSetup) -> list[Difference]:
    """The setup's own fields first, then channel by channel in the order of their inputs."""
    own = list(_named(_fields("", _plain(before), _plain(after)), before, after))
    old, new = ({c.key: c for c in s.channels} for s in (before, after))
    found = own + list(_computed(before, after))
    for key in [*(k for k in old if k not in new), *new]:
        was, now = old.get(key), new.get(key)
        if was is None and now is not None:
            place = f"{now.device_label}.{now.input_number}"
            found.append(Difference(now.name, "wired to", "", f"{place}, {now.sensor_serial}"))
        elif now is None and was is not None:
            place = f"{was.device_label}.{was.input_number}"
            found.append(Difference(was.name, "taken off", f"{place}, {was.sensor_serial}", ""))
        elif was is not None and now is not None and was != now:
            found += _fields(now.name, _plain(was), _plain(now))
    return found


def _named(found: Iterable[Difference], *setups: FrozenSetup) -> Iterator[Difference]:
    """With names where guards, keep rules and stops have the keys of channels."""
    names = {c.key: c.name for s in setups for c in s.channels}
    names |= {c.key: c.name for s in setups for c in s.computed}
    keys = re.compile("|".join(map(re.escape, names)) or r"(?!)")

    def said(text: str) -> str:
        return keys.sub(lambda match: names[match[0]], text)

    for one in found:
        yield replace(one, before=said(one.before), after=said(one.after))


def _computed(before: FrozenSetup, after: FrozenSetup) -> Iterator[Difference]:
    """Of computed channels their formulas, with names for keys."""
    old, new = ({c.key: c for c in s.computed} for s in (before, after))
    texts = [shown(s.channels, s.computed) for s in (before, after)]
    for key in [*(k for k in old if k not in new), *new]:
        was, now = old.get(key), new.get(key)
        if was and now and was != now:
            then, since = (t[key] for t in texts)
            yield from _fields(
                now.name, _plain(was) | {"formula": then}, _plain(now) | {"formula": since}
            )
        elif now and not was:
            yield Difference(now.name, "computed as", "", texts[1][key])
        elif was and not now:
            yield Difference(was.name, "removed", texts[0][key], "")


def _plain(shape: Any) -> dict[str, object]:
    fields: dict[str, object] = shape.model_dump(mode="json", exclude=NO_SETTING)
    return fields


def _fields(subject: str, before: Any, after: Any, path: str = "") -> Iterator[Difference]:
    """Differing leaves of two records; a list differs as a whole."""
    for name in sorted(set(before) | set(after)):
        was, now = before.get(name), after.get(name)
        if was == now:
            continue
        field = f"{path}.{name}" if path else name
        if isinstance(was, dict) and isinstance(now, dict):
            yield from _fields(subject, was, now, field)
        else:
            unit = unit_of(name)
            yield Difference(subject, _said(field), _value(was, unit), _value(now, unit))


def _said(path: str) -> str:
    """The last part of a path in words: the part before it tells nothing a person asks for."""
    last = path.rpartition(".")[2]
    text = words(last)
    return text[:1].lower() + text[1:]


def _value(value: Any, unit: str = "") -> str:
    if value is None:
        return "none"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.6g} {unit}".rstrip()
    if isinstance(value, dict):
        inside = ", ".join(f"{k} {_value(v)}" for k, v in value.items() if k != "kind")
        return f"{value.get('kind', '')} {inside}".strip().replace("_", " ")
    if isinstance(value, list):
        return _listed(value)
    return str(value).replace("_", " ") if value != "" else "none"


def _listed(values: list[Any]) -> str:
    if len(values) > LISTED and isinstance(values[0], float):
        return f"{len(values)} numbers, {_value(values[0])} to {_value(values[-1])}"
    return "; ".join(_value(v) for v in values) or "none"
