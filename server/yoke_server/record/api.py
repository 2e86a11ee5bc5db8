import asyncio
from dataclasses import asdict
from typing import Annotated, Any

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from pydantic import Field

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.signed_in import signed_in_async
from yoke_server.bench.orders import Done
from yoke_server.bench.stops import request_emergency_stop, request_emergency_stops, request_stop
from yoke_server.bench.waiting import answer_to, confirmation_of, in_thread
from yoke_server.common.http.columns import described_as
from yoke_server.common.http.fields import Id, Key, Seconds
from yoke_server.common.http.pages import (
    DEFAULT_LIMIT,
    Cursor,
    Limit,
    Page,
    PageOut,
    Search,
    searched,
)
from yoke_server.common.http.problems import Problem
from yoke_server.common.http.routes import RouteClass, treated_as
from yoke_server.kinds.orders.measuring import RestReadings
from yoke_server.kinds.orders.runs import RunBegun
from yoke_server.record import corrections, queries, schemas, services, zero_at_start
from yoke_server.record.discarding import discard_run, restore_run
from yoke_server.record.models import OPEN_STATES, Marker, MarkerKind, Run
from yoke_server.record.readings.definitions import readings_of, version_of
from yoke_server.record.readings.state import readings_out
from yoke_server.record.streams import StreamFacts, streams_of, streams_of_runs
from yoke_server.setups.models import Project

router = Router(tags=["record"])


def run_out(run: Run, streams: list[StreamFacts] | None = None) -> schemas.RunOut:
    """``streams``: of this run, where they are known; else they are asked for."""
    operator, readings = run.operator, readings_of(run)
    streams = streams_of(run.pk) if streams is None else streams
    streams = [s.stretched(readings.time_factor(s.device)) for s in streams]
    return schemas.RunOut.model_validate(
        {
            **{f.attname: getattr(run, f.attname) for f in run._meta.concrete_fields},
            **queries.specimen_of(run),
            "operator": (operator.get_full_name() or operator.username) if operator else "",
            "duration_s": max((s.end_s for s in streams), default=0.0),
            "streams": [stream_out(s) for s in streams],
            "setup_version": run.revision.number,
            "imported": run.document is not None,
            "channels": readings.setup.channels,
            "readings": version_of(run),
        }
    )


def run_of(run_id: int) -> schemas.RunOut:
    related = Run.everything.select_related("operator", "revision", "setup")
    return run_out(related.get(pk=run_id))


def stream_out(stream: StreamFacts) -> schemas.StreamOut:
    return schemas.StreamOut.model_validate(
        {
            **asdict(stream),
            "nbytes": stream.nbytes,
            "gaps": [{"from_s": a, "to_s": b} for a, b in stream.gaps],
        }
    )


@router.get("/setups/{setup_id}/runs", response=PageOut[schemas.RunOut])
def list_runs(
    request: HttpRequest,
    setup_id: Id,
    search: Search = "",
    discarded: bool = False,
    before: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> PageOut[schemas.RunOut]:
    """Of a setup, the newest first; or those that were discarded."""
    wanted = Run.everything.filter(setup_id=setup_id, discarded_at__isnull=not discarded)
    if discarded:
        wanted = wanted.filter(is_dry=False)
    return _page_of(searched(wanted, ("name", "notes"), search), Page(limit, before))


def _page_of(runs: QuerySet[Run], wanted: Page) -> PageOut[schemas.RunOut]:
    related = runs.select_related("operator", "revision", "setup").prefetch_related("corrections")
    page = wanted.of(related)
    streams = streams_of_runs([run.pk for run in page.rows])
    return page.out([run_out(run, streams[run.pk]) for run in page.rows])


@router.get("/projects/{project_id}/runs", response=PageOut[schemas.RunOut])
def runs_of_project(
    request: HttpRequest,
    project_id: Id,
    search: Search = "",
    before: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> PageOut[schemas.RunOut]:
    """Of all setups of a project, the newest first; words are looked for in names, notes,
    specimens and states."""
    Project.objects.only("pk").get(pk=project_id)
    wanted = Run.objects.filter(setup__project_id=project_id, is_dry=False)
    names = ("name", "notes", "state", "setup__name", "revision__specimen")
    runs = searched(wanted, names, search)
    return _page_of(runs, Page(limit, before))


@router.post("/setups/{setup_id}/runs", response={201: schemas.RunOut}, auth=signed_in_async)
async def start_run(request: HttpRequest, setup_id: Id, body: schemas.RunStart) -> Status[Any]:
    """Begin a run. Channels that zero themselves are zeroed first, if they are stale."""
    actor = Actor.of(request)
    if zeros := await in_thread(zero_at_start.order_zeros, actor, setup_id):
        found = await answer_to(zeros, RestReadings)
        await in_thread(zero_at_start.keep_unloaded, actor, setup_id, found.root)
    order = await in_thread(services.order_run, actor, setup_id, **body.model_dump())
    begun = await answer_to(order, RunBegun)
    return Status(201, await in_thread(run_of, begun.run))


@router.post("/runs/{run_id}/stop", response=schemas.RunOut, auth=signed_in_async)
@treated_as(RouteClass.STOP)
async def stop_run(request: HttpRequest, run_id: Id) -> schemas.RunOut:
    await confirmation_of(await in_thread(services.request_stop_of, Actor.of(request), run_id))
    return await in_thread(run_of, run_id)


@router.post("/runs/{run_id}/discard", response={204: None})
def discard(request: HttpRequest, run_id: Id, body: schemas.DiscardIn) -> Status[Any]:
    """Take a run out of all lists; it can be restored for thirty days."""
    discard_run(Actor.of(request), run_id, reason=body.reason)
    return Status(204, None)


@router.post("/runs/{run_id}/restore", response={204: None})
def restore(request: HttpRequest, run_id: Id) -> Status[Any]:
    """Bring a discarded run back as it was."""
    restore_run(Actor.of(request), run_id)
    return Status(204, None)


@router.post("/runs/{run_id}/commands", response={204: None}, auth=signed_in_async)
async def command_run(request: HttpRequest, run_id: Id, body: schemas.RunCommand) -> Status[Any]:
    """Have a run that is recorded pause, go on, hold, skip a leg or end gently."""
    actor = Actor.of(request)
    await answer_to(await in_thread(services.order_command, actor, run_id, body.command), Done)
    return Status(204, None)


@router.post("/runs/{run_id}/markers", response={204: None}, auth=signed_in_async)
async def mark_run(request: HttpRequest, run_id: Id, body: schemas.MarkerIn) -> Status[Any]:
    """Name this instant of a run that is recorded."""
    actor = Actor.of(request)
    await answer_to(await in_thread(services.order_marker, actor, run_id, body.text), Done)
    return Status(204, None)


@router.get("/runs/{run_id}/markers", response=PageOut[schemas.MarkerOut])
def list_markers(
    request: HttpRequest, run_id: Id, before: Cursor = None, limit: Limit = DEFAULT_LIMIT
) -> PageOut[schemas.MarkerOut]:
    """Of a run, the newest first: what people noted, guards that tripped, pauses."""
    run = Run.objects.get(pk=run_id)
    page = Page(limit, before).of(run.markers.select_related("actor"))
    return page.out([_marker_out(run, marker) for marker in page.rows])


def _marker_out(run: Run, marker: Marker) -> schemas.MarkerOut:
    actor = marker.actor
    return schemas.MarkerOut(
        id=marker.pk,
        at_s=(marker.at_ns - run.start_ns) * 1e-9,
        kind=MarkerKind(marker.kind),
        text=marker.text,
        by=(actor.get_full_name() or actor.username) if actor else "",
    )


@router.patch("/runs/{run_id}", response=schemas.RunOut)
def change_run(request: HttpRequest, run_id: Id, body: schemas.RunChange) -> schemas.RunOut:
    return run_out(services.change_run(Actor.of(request), run_id, **body.given()))


@router.post("/emergency-stop", response={204: None}, auth=signed_in_async)
@treated_as(RouteClass.STOP)
async def emergency_stop_everywhere(request: HttpRequest) -> Status[Any]:
    """On the benches that this person drives, or else on all."""
    stops = await in_thread(request_emergency_stops, Actor.of(request))
    await asyncio.gather(*map(confirmation_of, stops))
    return Status(204, None)


@router.post("/benches/{bench_id}/emergency-stop", response={204: None}, auth=signed_in_async)
@treated_as(RouteClass.STOP)
async def emergency_stop(request: HttpRequest, bench_id: Id) -> Status[Any]:
    """Everybody may. Nothing moves after it until it is released."""
    await confirmation_of(await in_thread(request_emergency_stop, Actor.of(request), bench_id))
    return Status(204, None)


@router.delete("/benches/{bench_id}/emergency-stop", response={204: None}, auth=signed_in_async)
async def release_emergency_stop(request: HttpRequest, bench_id: Id) -> Status[Any]:
    """Release the stop; nothing starts moving by itself."""
    await answer_to(await in_thread(services.order_release, Actor.of(request), bench_id), Done)
    return Status(204, None)


@router.post("/benches/{bench_id}/stop", response={204: None}, auth=signed_in_async)
@treated_as(RouteClass.STOP)
async def stop_bench(request: HttpRequest, bench_id: Id) -> Status[Any]:
    """Stop what is being recorded, or is about to be."""
    await confirmation_of(await in_thread(request_stop, Actor.of(request), bench_id))
    return Status(204, None)


@router.post("/benches/{bench_id}/return", response={204: None}, auth=signed_in_async)
async def return_actuator(request: HttpRequest, bench_id: Id) -> Status[Any]:
    await answer_to(await in_thread(services.order_return, Actor.of(request), bench_id), Done)
    return Status(204, None)


@router.post("/benches/{bench_id}/reset-peaks", response={204: None}, auth=signed_in_async)
async def reset_peaks(request: HttpRequest, bench_id: Id, body: schemas.PeaksReset) -> Status[Any]:
    actor = Actor.of(request)
    await answer_to(
        await in_thread(services.order_reset_of_peaks, actor, bench_id, body.channels), Done
    )
    return Status(204, None)


@router.get("/runs/{run_id}/steps", response=list[schemas.SweepStepOut])
def list_steps(request: HttpRequest, run_id: Id) -> Any:
    """The steps of a run's sweeps, each with the averages of all channels over its end."""
    from yoke_server.record.steps import steps_of

    run = _run_read(run_id)
    return steps_of(run, readings_of(run))


@router.get("/runs/{run_id}/view", openapi_extra=described_as("application/octet-stream"))
def run_view(
    request: HttpRequest,
    run_id: Id,
    channel: Key,
    from_s: Seconds | None = None,
    to_s: Seconds | None = None,
    pixels: Annotated[int, Field(ge=16, le=8192)] = 1000,
    version: Annotated[str, Field(max_length=64)] = "",
) -> HttpResponse:
    """Lowest and highest per column in SI: uint32 length, JSON header, then float32.

    ``version`` is that of the run's readings, as the run says it: what was looked up for one is
    remembered. A computed channel is shown as far as it is computed.

    The header lists segments without gaps (start and step in seconds of the run, count of
    columns); then come all lows and all highs. Infinite where a sample clipped.
    """
    from yoke_server.record.channel_of_run import channel_of_run
    from yoke_server.record.plot_data import encoded_view

    found = channel_of_run(run_id, channel, to_s, version)
    if found is None:
        answer = _before_stored(_run_read(run_id), channel, (from_s, to_s), pixels // 2)
    else:
        window = queries.window_of(found.times, from_s, to_s)
        answer = encoded_view(found, *window, pixels // 2)
    return HttpResponse(answer, content_type="application/octet-stream")


@router.get("/runs/{run_id}/kept", openapi_extra=described_as("application/octet-stream"))
def kept_view(
    request: HttpRequest,
    run_id: Id,
    rule: Annotated[str, Field(max_length=20)],
    channel: Key,
    pixels: Annotated[int, Field(ge=16, le=8192)] = 1000,
) -> HttpResponse:
    """What a keep rule has kept row by row (turning points, changes), over the whole run.

    uint32 length, JSON header with the ``count`` of columns and of ``rows``, then float32: the
    seconds of the run, the lowest and the highest reading in SI; not a number where it is not
    known.
    """
    from yoke_server.record.kept_rows import encoded_rows

    answer = encoded_rows(readings_of(_run_read(run_id)), rule, channel, pixels // 2)
    return HttpResponse(answer, content_type="application/octet-stream")


def _before_stored(
    run: Run, key: str, window: tuple[float | None, float | None], pixels: int
) -> bytes:
    """A computed channel in the window that somebody looks at, before the worker has come to it."""
    from yoke_server.record.plot_data import nothing_yet
    from yoke_server.record.readings.preview import encoded_part

    readings = readings_of(run)
    if readings.channel(key) is None:
        raise Problem(404, "This run has no such channel.", field="channel")
    if run.state in OPEN_STATES or readings.problem(key):
        return nothing_yet()
    try:
        return encoded_part(readings, key, window, pixels)
    except Problem:  # of inputs that the worker has not made either
        return nothing_yet()


def _run_read(run_id: int) -> Run:
    rows = Run.objects.select_related("revision", "setup").prefetch_related("corrections")
    return rows.get(pk=run_id)


@router.get("/runs/{run_id}/readings", response=schemas.RunReadingsOut)
def run_readings(request: HttpRequest, run_id: Id) -> schemas.RunReadingsOut:
    """How each channel is read, and how far those are that are computed."""
    return readings_out(_run_read(run_id))


@router.post("/runs/{run_id}/readings", response={202: schemas.RunReadingsOut})
def compute_readings(request: HttpRequest, run_id: Id, body: schemas.RunReadingsIn) -> Status[Any]:
    """Have the worker compute what is missing; news tell of its progress."""
    from yoke_server.record.tasks import order_readings

    run = _run_read(run_id)
    order_readings(run, Actor.of(request).user.pk, body.first or "")
    return Status(202, readings_out(run))


@router.delete("/runs/{run_id}/readings", response={204: None})
def cancel_readings(request: HttpRequest, run_id: Id) -> Status[Any]:
    """Give up what is being computed of the run; what is complete stays."""
    from yoke_server.record.tasks import cancel_readings as cancel

    cancel(Actor.of(request), _run_read(run_id))
    return Status(204, None)


@router.get("/runs/{run_id}/hints", response=list[schemas.HintOut])
def run_hints(request: HttpRequest, run_id: Id) -> list[schemas.HintOut]:
    """What looks wrong of a closed run, each with its reason and, where there is one, a
    correction."""
    from yoke_server.record.readings.hints import hints_of

    run = _run_read(run_id)
    if run.state in OPEN_STATES:
        return []
    return [schemas.HintOut.model_validate(hint) for hint in hints_of(run)]


@router.post("/setups/{setup_id}/corrections", response={201: schemas.CorrectionKeyOut})
def add_correction(request: HttpRequest, setup_id: Id, body: schemas.CorrectionIn) -> Status[Any]:
    """Correct recorded runs: what is read of them changes, their samples do not."""
    actor = Actor.of(request)
    key = corrections.add_correction(actor, setup_id, body.runs, body.correction, body.reason)
    return Status(201, {"key": key})


@router.patch("/setups/{setup_id}/corrections/{correction_key}", response={204: None})
def change_correction(
    request: HttpRequest, setup_id: Id, correction_key: Key, body: schemas.CorrectionChange
) -> Status[Any]:
    """Switch it on or off, name it or move it, in all runs that have it."""
    corrections.change_correction(Actor.of(request), setup_id, correction_key, **body.given())
    return Status(204, None)


@router.delete("/setups/{setup_id}/corrections/{correction_key}", response={204: None})
def remove_correction(request: HttpRequest, setup_id: Id, correction_key: Key) -> Status[Any]:
    """Take it off all runs that have it."""
    corrections.remove_correction(Actor.of(request), setup_id, correction_key)
    return Status(204, None)


@router.post(
    "/runs/{run_id}/corrected-view", openapi_extra=described_as("application/octet-stream")
)
def corrected_view(request: HttpRequest, run_id: Id, body: schemas.CorrectedViewIn) -> HttpResponse:
    """The view of a channel as it would be with a correction; nothing is stored.

    As `run_view`; of a long run the part that can be computed at once.
    """
    from yoke_server.record.readings.preview import encoded_preview

    found = encoded_preview(
        _run_read(run_id), body.correction, body.channel, (body.from_s, body.to_s), body.pixels // 2
    )
    return HttpResponse(found, content_type="application/octet-stream")
