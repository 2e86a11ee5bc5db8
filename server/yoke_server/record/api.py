import asyncio
from dataclasses import asdict
from typing import Annotated, Any

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
from yoke_server.kinds.orders.runs import RunBegun
from yoke_server.record import queries, schemas, services
from yoke_server.record.models import Run
from yoke_server.record.streams import StreamFacts, streams_of, streams_of_runs

router = Router(tags=["record"])


def run_out(run: Run, streams: list[StreamFacts] | None = None) -> schemas.RunOut:
    """``streams``: of this run, where they are known; else they are asked for."""
    operator, document = run.operator, queries.document_of(run)
    streams = streams_of(run.pk) if streams is None else streams
    return schemas.RunOut.model_validate(
        {
            **{f.attname: getattr(run, f.attname) for f in run._meta.concrete_fields},
            **queries.specimen_of(run),
            "operator": (operator.get_full_name() or operator.username) if operator else "",
            "duration_s": max((s.end_s for s in streams), default=0.0),
            "streams": [stream_out(s) for s in streams],
            "setup_version": run.revision.number,
            "imported": run.document is not None,
            "channels": document.channels,
        }
    )


def run_of(run_id: int) -> schemas.RunOut:
    return run_out(Run.objects.select_related("operator", "revision").get(pk=run_id))


def stream_out(stream: StreamFacts) -> schemas.StreamOut:
    return schemas.StreamOut.model_validate(
        {**asdict(stream), "gaps": [{"from_s": a, "to_s": b} for a, b in stream.gaps]}
    )


@router.get("/setups/{setup_id}/runs", response=PageOut[schemas.RunOut])
def list_runs(
    request: HttpRequest,
    setup_id: Id,
    search: Search = "",
    before: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> PageOut[schemas.RunOut]:
    """Of a setup, the newest first."""
    runs = searched(Run.objects.filter(setup_id=setup_id), ("name", "notes"), search)
    related = runs.select_related("operator", "revision").prefetch_related("corrections")
    page = Page(limit, before).of(related)
    streams = streams_of_runs([run.pk for run in page.rows])
    return page.out([run_out(run, streams[run.pk]) for run in page.rows])


@router.post("/setups/{setup_id}/runs", response={201: schemas.RunOut}, auth=signed_in_async)
async def start_run(request: HttpRequest, setup_id: Id, body: schemas.RunStart) -> Status[Any]:
    actor = Actor.of(request)
    order = await in_thread(services.order_run, actor, setup_id, **body.model_dump())
    begun = await answer_to(order, RunBegun)
    return Status(201, await in_thread(run_of, begun.run))


@router.post("/runs/{run_id}/stop", response=schemas.RunOut, auth=signed_in_async)
@treated_as(RouteClass.STOP)
async def stop_run(request: HttpRequest, run_id: Id) -> schemas.RunOut:
    await confirmation_of(await in_thread(services.request_stop_of, Actor.of(request), run_id))
    return await in_thread(run_of, run_id)


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


@router.get("/runs/{run_id}/view", openapi_extra=described_as("application/octet-stream"))
def run_view(
    request: HttpRequest,
    run_id: Id,
    channel: Key,
    from_s: Seconds | None = None,
    to_s: Seconds | None = None,
    pixels: Annotated[int, Field(ge=16, le=8192)] = 1000,
) -> HttpResponse:
    """Lowest and highest per column in SI: uint32 length, JSON header, then float32.

    The header lists segments without gaps (start and step in seconds of the run, count of
    columns); then come all lows and all highs. Infinite where a sample clipped.
    """
    from yoke_server.record.plot_data import encoded_view

    found = queries.channel_of_run(run_id, channel, to_s)
    if found is None:
        raise Problem(404, "This run has no such channel.", field="channel")
    window = queries.window_of(found.times, from_s, to_s)
    answer = encoded_view(found, *window, pixels // 2)
    return HttpResponse(answer, content_type="application/octet-stream")
