"""Reads of projects and setups as the API gives them."""

from dataclasses import asdict
from typing import Any

from django.db.models import Count, Max
from yoke_core.bridge.circuit import FACTS, Circuit

from yoke_server.calibrate.scaling import per_mv_v
from yoke_server.common.one_state import one_state
from yoke_server.derive.models import Derivation
from yoke_server.ledger.services import undoable
from yoke_server.record.naming import run_name
from yoke_server.record.preflight import gaps
from yoke_server.report.models import Report
from yoke_server.wire.document import FrozenChannel, freeze
from yoke_server.wire.models import Channel, Project, Setup
from yoke_server.wire.services import plain


def projects() -> list[dict[str, Any]]:
    """All projects with their setups, newest first."""
    found = []
    for project in Project.objects.order_by("-created_at")[:200]:
        setups = project.setups.annotate(
            channel_count=Count("channels", distinct=True),
            run_count=Count("runs", distinct=True),
            last_run=Max("runs__started_at"),
        ).order_by("pk")
        lines = [
            {
                "id": s.pk, "name": s.name, "version": s.version,
                "channels": s.channel_count, "runs": s.run_count, "last_run": s.last_run,
            }
            for s in setups
        ]  # fmt: skip
        found.append({**plain(project), "setups": lines})
    return found


def channel_out(channel: Channel, frozen: FrozenChannel) -> dict[str, Any]:
    fields = {f.attname: getattr(channel, f.attname) for f in channel._meta.concrete_fields}
    return {
        **fields,
        **frozen.model_dump(),
        "sensor": channel.sensor,
        "device_id": channel.input.device_id,
        "input_label": channel.input.label,
        "active_arms": list(FACTS[Circuit(channel.arrangement)].active_arms),
        "per_mv_v": per_mv_v(frozen),
    }


def setup_out(setup_id: int) -> dict[str, Any]:
    """A setup with everything its stages show, as it stood at one moment."""
    with one_state():
        return _setup_out(setup_id)


def _setup_out(setup_id: int) -> dict[str, Any]:
    setup = Setup.objects.select_related("project", "bench").get(pk=setup_id)
    frozen = freeze(setup)
    rows = setup.channels.select_related("sensor", "input__device")
    highest = setup.runs.aggregate(m=Max("number"))["m"] or 0
    undo, redo = undoable(setup.pk, undone=False), undoable(setup.pk, undone=True)
    return {
        **{f.attname: getattr(setup, f.attname) for f in setup._meta.concrete_fields},
        "project_name": setup.project.name,
        "next_run_name": run_name(frozen.model_dump(), highest + 1),
        "rates": [
            {"device_id": d.device_id, "device_label": d.device.label, "rate_hz": d.rate_hz}
            for d in setup.devices.select_related("device")
        ],
        "channels": [channel_out(c, f) for c, f in zip(rows, frozen.channels, strict=True)],
        "gaps": [asdict(g) for g in gaps(setup, frozen.channels)],
        "undo": undo.action if undo else "",
        "redo": redo.action if redo else "",
        "runs": setup.runs.count(),
        "results": Derivation.objects.filter(run__setup=setup, values__isnull=False).count(),
        "reports": Report.objects.filter(run__setup=setup).count(),
    }
