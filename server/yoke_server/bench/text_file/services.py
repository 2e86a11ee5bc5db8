"""A bench written as text, and made to be what a text says."""

import io
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from ruamel.yaml import YAML

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench import services
from yoke_server.bench.address import spoken
from yoke_server.bench.models import Bench, Device
from yoke_server.bench.text_file.reading import read_bench_file
from yoke_server.bench.text_file.shape import BenchFile, DeviceEntry
from yoke_server.common.http.fields import comparison_key
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.ledger.services import record

HEAD = "# A bench; its form is published at /api/bench-file/schema.\n"


def write_bench_file(bench: Bench) -> str:
    devices = [
        {"label": d.label, "driver": d.driver, "address": d.host, "port": d.port}
        for d in bench.devices.order_by("label")
    ]
    out = io.StringIO()
    yaml = YAML()
    yaml.indent(mapping=2, sequence=4, offset=2)
    yaml.dump({"yoke_bench": 1, "bench": bench.name, "devices": devices}, out)
    return HEAD + out.getvalue()


@dataclass(frozen=True, slots=True)
class Difference:
    """What would be done to a bench; ``devices`` are removed where their label is not in it."""

    put: list[DeviceEntry]
    removed: list[Device]
    words: list[str]


def _difference(bench: Bench, file: BenchFile) -> Difference:
    known = {d.label: d for d in bench.devices.all()}
    put, said = [], []
    for at, entry in enumerate(file.devices):
        _check(file, at, known.get(entry.label))
        there, where = known.get(entry.label), spoken(entry.address, entry.port)
        if there is None:
            said.append(f"Adds {entry.label}, a {entry.driver} at {where}")
        elif (there.host, there.port) == (entry.address, entry.port):
            continue
        else:
            said.append(f"Moves {entry.label} from {spoken(there.host, there.port)} to {where}")
        put.append(entry)
    labels = {entry.label for entry in file.devices}
    removed = [d for label, d in known.items() if label not in labels]
    said += [f"Takes {d.label} off, a {d.driver}" for d in removed]
    return Difference(put, removed, said)


def _check(file: BenchFile, number: int, there: Device | None) -> None:
    """Raise a problem for what the form allows and a bench does not."""
    entry = file.devices[number]
    place = f"devices.{number}"
    try:
        services.check_address(entry.driver, entry.address, entry.port)
    except Problem as problem:
        at = {"host": "address"}.get(problem.field, problem.field)
        title = f"Device {entry.label}: {problem.title[:1].lower()}{problem.title[1:]}"
        raise Problem(422, title, field=f"{place}.{at}", hint=problem.hint) from problem
    for other in file.devices[:number]:
        if (other.address, other.port) == (entry.address, entry.port):
            raise Problem(
                422,
                f"Device {entry.label}: {spoken(entry.address, entry.port)} is "
                f"{other.label}'s already.",
                field=f"{place}.address",
                hint="Check the address.",
            )
    if any(
        comparison_key(entry.label) == comparison_key(other.label)
        for other in file.devices[:number]
    ):
        raise Problem(
            422,
            f"The label {entry.label} is there twice.",
            field=f"{place}.label",
            hint="Give each device its own.",
        )
    if there is not None and there.driver != entry.driver:
        raise Problem(
            409,
            f"{entry.label} is a {there.driver} already.",
            code=ProblemType.EXISTS_ALREADY,
            field=f"{place}.driver",
            hint="Choose another label, or take that device off first.",
        )


def preview(actor: Actor, bench_id: int, text: str) -> list[str]:
    """What a text would do to a bench, in words; nothing is done."""
    require(actor, "set up benches")
    return _difference(Bench.objects.get(pk=bench_id), read_bench_file(text)).words


@transaction.atomic
def apply(actor: Actor, bench_id: int, text: str) -> list[str]:
    """Make a bench have the devices that a text names, as a whole or not at all.

    The bench keeps its name: the file says which one it was written from.
    """
    require(actor, "set up benches")
    file = read_bench_file(text)
    bench = Bench.objects.select_for_update(of=("self",)).get(pk=bench_id)
    difference = _difference(bench, file)
    for device in difference.removed:
        services.remove_device(actor, device.pk)
    for entry in difference.put:
        services.save_device(actor, bench, **_address(entry))
    if difference.words:
        record(actor, f"Read {bench.name} from a text: {len(difference.words)} changes")
    return difference.words


def _address(entry: DeviceEntry) -> dict[str, Any]:
    return {
        "label": entry.label,
        "driver": entry.driver,
        "host": entry.address,
        "port": entry.port,
    }
