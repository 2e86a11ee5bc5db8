import json
import struct
from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from pydantic import Field

from yoke_server.accounts.actor import Actor
from yoke_server.config.problems import Problem
from yoke_server.record import queries, schemas, services
from yoke_server.record.models import Run, RunState

router = Router(tags=["record"])


def run_out(run: Run) -> dict[str, Any]:
    stream = run.streams.first()
    operator = run.operator
    return {
        **{f.attname: getattr(run, f.attname) for f in run._meta.concrete_fields},
        "operator": (operator.get_full_name() or operator.username) if operator else "",
        "samples": stream.samples if stream else 0,
        "rate_hz": stream.rate_hz if stream else None,
        "gaps": stream.gaps if stream else [],
        "setup_version": run.frozen["version"],
        "channels": run.frozen["channels"],
    }


@router.get("/setups/{setup_id}/runs", response=list[schemas.RunOut])
def list_runs(request: HttpRequest, setup_id: int) -> list[dict[str, Any]]:
    """The newest 200 runs, oldest first; those that never began are left out."""
    runs = Run.objects.filter(setup_id=setup_id).exclude(state=RunState.FAILED)
    newest = runs.select_related("operator").order_by("-number")[:200]
    return [run_out(run) for run in reversed(newest)]


@router.post("/setups/{setup_id}/runs", response={201: schemas.RunOut})
def start_run(request: HttpRequest, setup_id: int, body: schemas.RunStart) -> Status[Any]:
    return Status(201, run_out(services.start_run(Actor.of(request), setup_id, pull=body.pull)))


@router.post("/runs/{run_id}/stop", response=schemas.RunOut)
def stop_run(request: HttpRequest, run_id: int) -> dict[str, Any]:
    return run_out(services.stop_run(Actor.of(request), run_id))


@router.patch("/runs/{run_id}", response=schemas.RunOut)
def change_run(request: HttpRequest, run_id: int, body: schemas.RunChange) -> dict[str, Any]:
    return run_out(services.change_run(Actor.of(request), run_id, **body.dict(exclude_none=True)))


@router.post("/benches/{bench_id}/emergency-stop", response={204: None})
def emergency_stop(request: HttpRequest, bench_id: int) -> Status[Any]:
    services.order_bench(Actor.of(request), bench_id, "emergency")
    return Status(204, None)


@router.post("/benches/{bench_id}/return", response={204: None})
def return_actuator(request: HttpRequest, bench_id: int) -> Status[Any]:
    services.order_bench(Actor.of(request), bench_id, "return")
    return Status(204, None)


@router.get("/runs/{run_id}/view")
def run_view(
    request: HttpRequest,
    run_id: int,
    channel: int,
    first: Annotated[int, Field(ge=0)] = 0,
    last: int | None = None,
    pixels: Annotated[int, Field(ge=16, le=8192)] = 1000,
) -> HttpResponse:
    """Lowest and highest per column in SI: uint32 length, JSON header, then float32 pairs."""
    from yoke_server.calibrate.scaling import to_quantity
    from yoke_server.record.views import view
    from yoke_server.wire.frozen import FrozenChannel

    stream = queries.stream_to_view(run_id)
    if stream is None or not 0 <= channel < stream.channel_count:
        raise Problem(404, "This run has no such channel.", field="channel")
    settings = FrozenChannel.model_validate(stream.run.frozen["channels"][channel])
    end = min(stream.samples if last is None else last, stream.samples)
    found = view(stream, channel, min(first, end), end, pixels // 2)
    ends = [to_quantity(settings, v) for v in (found.low, found.high)]
    if settings.reversed:
        ends.reverse()
    header = json.dumps(
        {"first": found.first, "step": found.step, "count": len(found.low), "rate": stream.rate_hz}
    ).encode()
    header += b" " * (-len(header) % 4)
    body = b"".join(e.astype("<f4").tobytes() for e in ends)
    return HttpResponse(
        struct.pack("<I", len(header)) + header + body, content_type="application/octet-stream"
    )
