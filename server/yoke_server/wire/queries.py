"""Reads of projects and setups as the API gives them."""

from typing import Any

from yoke_server.common.one_state import one_state
from yoke_server.common.units import DECIMALS
from yoke_server.ledger.services import undoable
from yoke_server.wire import hooks
from yoke_server.wire.document import FrozenChannel, freeze
from yoke_server.wire.models import Channel, Project, Setup
from yoke_server.wire.naming import free_name, free_rosette, run_name
from yoke_server.wire.services import plain


def projects() -> list[dict[str, Any]]:
    """All projects with their setups, newest first."""
    rows = Project.objects.order_by("-created_at")[:200]
    return [{**plain(p), "setups": [_line(s) for s in p.setups.order_by("pk")]} for p in rows]


def _line(setup: Setup) -> dict[str, Any]:
    own = {"id": setup.pk, "name": setup.name, "version": setup.version}
    more = hooks.gathered(hooks.line_facts, setup)
    return {**own, "channels": setup.channels.count(), **more}


def channel_out(channel: Channel, frozen: FrozenChannel) -> dict[str, Any]:
    fields = {f.attname: getattr(channel, f.attname) for f in channel._meta.concrete_fields}
    wiring = channel.wiring
    return {
        **fields,
        **{name: getattr(frozen, name) for name in FrozenChannel.model_fields},
        "sensor": channel.sensor,
        "device_id": channel.input.device_id,
        "input_label": channel.input.label,
        "active_arms": wiring.active_arms if wiring.kind == "bridge" else [],
        **hooks.gathered(hooks.channel_facts, frozen),
    }


def _free_names(taken: set[str]) -> dict[str, str]:
    """What a new channel of each quantity, or a rosette, would be called."""
    found = {quantity: free_name(quantity, taken) for quantity in DECIMALS}
    return found | {"rosette": free_rosette(taken)}


def setup_out(setup_id: int) -> dict[str, Any]:
    """A setup with everything its stages show, as it stood at one moment."""
    with one_state():
        return _setup_out(setup_id)


def _setup_out(setup_id: int) -> dict[str, Any]:
    setup = Setup.objects.select_related("project", "bench").get(pk=setup_id)
    frozen = freeze(setup)
    rows = setup.channels.select_related("sensor", "input__device")
    undo, redo = undoable(setup.pk, undone=False), undoable(setup.pk, undone=True)
    facts = hooks.gathered(hooks.setup_facts, setup, frozen)
    return {
        **{f.attname: getattr(setup, f.attname) for f in setup._meta.concrete_fields},
        "project_name": setup.project.name,
        "rates": [
            {"device_id": d.device_id, "device_label": d.device.label, "rate_hz": d.rate_hz}
            for d in setup.devices.select_related("device")
        ],
        "channels": [channel_out(c, f) for c, f in zip(rows, frozen.channels, strict=True)],
        "free_names": _free_names({c.name for c in frozen.channels}),
        "undo": undo.action if undo else "",
        "redo": redo.action if redo else "",
        **facts,
        "next_run_name": run_name(frozen.model_dump(mode="json"), facts["last_run_number"] + 1),
    }
