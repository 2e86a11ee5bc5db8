from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.signed_in import signed_in_async
from yoke_server.bench.waiting import answer_to, in_thread
from yoke_server.common.http.fields import Id
from yoke_server.kinds.orders.measuring import SignalSnapshot
from yoke_server.record.signal_check import schemas, services

router = Router(tags=["record"])


@router.post(
    "/setups/{setup_id}/signal-checks",
    response={201: schemas.SignalCheckOut},
    auth=signed_in_async,
)
async def check_signals(
    request: HttpRequest, setup_id: Id, body: schemas.SignalCheckIn
) -> Status[schemas.SignalCheckOut]:
    """Look at 2 s of every channel, say what is wrong, and keep it."""
    actor = Actor.of(request)
    order = await in_thread(services.order_check, actor, setup_id, body.mains_hz)
    found = await answer_to(order, SignalSnapshot)
    kept = await in_thread(services.keep_check, actor, setup_id, found, body.mains_hz)
    return Status(201, await in_thread(services.signal_check, kept.pk))


@router.get("/setups/{setup_id}/signal-checks", response=list[schemas.SignalCheckRow])
def signal_checks(request: HttpRequest, setup_id: Id) -> list[schemas.SignalCheckRow]:
    return services.signal_checks(setup_id)


@router.get("/signal-checks/{check_id}", response=schemas.SignalCheckOut)
def signal_check(request: HttpRequest, check_id: Id) -> schemas.SignalCheckOut:
    return services.signal_check(check_id)


@router.post("/setups/{setup_id}/spectrum", response=schemas.SpectrumOut, auth=signed_in_async)
async def spectrum_now(
    request: HttpRequest, setup_id: Id, body: schemas.SpectrumIn
) -> schemas.SpectrumOut:
    """The spectrum of 2 s of a channel as it is now; nothing is kept."""
    actor = Actor.of(request)
    order = await in_thread(services.order_spectrum, actor, setup_id, body.channel, body.mains_hz)
    found = await answer_to(order, SignalSnapshot)
    return await in_thread(services.spectrum_of, setup_id, body.channel, found)
