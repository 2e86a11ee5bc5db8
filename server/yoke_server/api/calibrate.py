from collections.abc import Callable

from django.http import HttpRequest
from ninja import Router

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.signed_in import signed_in_async
from yoke_server.api.schemas import SetupOut
from yoke_server.api.setup_page import setup_out
from yoke_server.bench.waiting import answer_to, in_thread
from yoke_server.calibrate import balancing, captured_points, schemas, services, shunts
from yoke_server.calibrate.queries import curve_of, zeros_of
from yoke_server.calibrate.steps import chain_values, filter_view
from yoke_server.calibrate.uncertainty import uncertainties_of, uncertainty_of
from yoke_server.common.http.fields import Id
from yoke_server.kinds.orders.measuring import RestReading, RestReadings, ShuntReadings
from yoke_server.wire.orders import order_rest, order_shunts

router = Router(tags=["calibrate"])


@router.patch("/channels/{channel_id}/scaling", response=SetupOut)
def change_scaling(request: HttpRequest, channel_id: Id, body: schemas.ScalingChange) -> SetupOut:
    changes = body.given()
    channel = services.change_scaling(Actor.of(request), channel_id, **changes)
    return setup_out(channel.setup_id)


@router.patch("/setups/{setup_id}/scaling", response=SetupOut)
def change_scalings(request: HttpRequest, setup_id: Id, body: schemas.ManyScalings) -> SetupOut:
    """Change the scaling of many channels as one action: all of them or none."""
    changes = {c.id: c.given(but={"id"}) for c in body.channels}
    services.change_scalings(Actor.of(request), setup_id, changes)
    return setup_out(setup_id)


@router.post("/channels/{channel_id}/scaling/certificate", response=SetupOut)
def scale_by_certificate(request: HttpRequest, channel_id: Id) -> SetupOut:
    """Scale the channel by the table of its instrument's certificate in force."""
    channel = services.scale_by_certificate(Actor.of(request), channel_id)
    return setup_out(channel.setup_id)


@router.post("/channels/{channel_id}/scaling/point", response=SetupOut, auth=signed_in_async)
async def capture_point(request: HttpRequest, channel_id: Id, body: schemas.PointIn) -> SetupOut:
    """Measure the channel, as the signal of a known value; refused while it moves."""
    actor = Actor.of(request)
    setup_id = await in_thread(captured_points.setup_of_channel, actor, channel_id)
    order = await in_thread(order_rest, actor, setup_id, [channel_id])
    found = await answer_to(order, RestReadings)
    await in_thread(
        captured_points.capture_point, actor, channel_id, body.point, body.value, found.root
    )
    return await in_thread(setup_out, setup_id)


@router.get("/channels/{channel_id}/curve", response=schemas.CurveOut)
def scaling_curve(request: HttpRequest, channel_id: Id) -> dict[str, list[float]]:
    """What the channel makes of its signal: refused where its scaling has no answer."""
    return curve_of(channel_id)


@router.post("/channels/{channel_id}/chain", response=list[schemas.ChainPartOut])
def reading_chain(
    request: HttpRequest, channel_id: Id, body: schemas.ChainIn
) -> list[schemas.ChainPartOut]:
    """The channel's reading part by part at one instant; steps that are off come last."""
    return chain_values(channel_id, body.signal, body.reading, body.others)


@router.post("/channels/{channel_id}/filter", response=schemas.FilterOut)
def show_filter(request: HttpRequest, channel_id: Id, body: schemas.FilterIn) -> schemas.FilterOut:
    """What a filter would do at the channel's rate; nothing is stored."""
    return filter_view(channel_id, body.step)


@router.post("/channels/{channel_id}/uncertainty", response=schemas.UncertaintyOut)
def reading_uncertainty(
    request: HttpRequest, channel_id: Id, body: schemas.UncertaintyIn
) -> schemas.UncertaintyOut:
    """What a reading of the channel is uncertain by; nothing is stored."""
    return uncertainty_of(channel_id, body.reading, body.deviation)


@router.post("/setups/{setup_id}/uncertainties", response=list[schemas.ExpandedOut])
def reading_uncertainties(
    request: HttpRequest, setup_id: Id, body: schemas.ReadingsIn
) -> list[schemas.ExpandedOut]:
    """What the readings of many channels are uncertain by; nothing is stored."""
    readings = {r.channel: (r.reading, r.deviation) for r in body.readings}
    return uncertainties_of(setup_id, readings)


@router.get("/channels/{channel_id}/zeros", response=list[schemas.ZeroOut])
def zero_history(request: HttpRequest, channel_id: Id) -> list[schemas.ZeroOut]:
    """The newest zeros of the channel, the oldest of them first."""
    return zeros_of(channel_id)


Outcomes = list[dict[str, object]]


async def _at_rest(
    request: HttpRequest,
    setup_id: int,
    channels: list[int],
    keep: Callable[[Actor, int, dict[str, RestReading]], Outcomes],
) -> Outcomes:
    actor = Actor.of(request)
    order = await in_thread(order_rest, actor, setup_id, channels)
    found = await answer_to(order, RestReadings)
    return await in_thread(keep, actor, setup_id, found.root)


@router.post("/setups/{setup_id}/zero", response=list[schemas.Outcome], auth=signed_in_async)
async def zero(request: HttpRequest, setup_id: Id, body: schemas.Chosen) -> Outcomes:
    return await _at_rest(request, setup_id, body.channels, services.keep_zeros)


@router.post("/setups/{setup_id}/shunt-check", response=list[schemas.Outcome], auth=signed_in_async)
async def shunt_check(request: HttpRequest, setup_id: Id, body: schemas.Chosen) -> Outcomes:
    actor = Actor.of(request)
    order = await in_thread(order_shunts, actor, setup_id, body.channels)
    found = await answer_to(order, ShuntReadings)
    return await in_thread(shunts.keep_shunt_checks, actor, setup_id, found.root)


@router.post("/setups/{setup_id}/balance", response=list[schemas.Outcome], auth=signed_in_async)
async def balance(request: HttpRequest, setup_id: Id, body: schemas.BalanceIn) -> Outcomes:
    """Balance bridges in the amplifier, or take that off; their zeros are to be taken anew."""
    if body.on:
        return await _at_rest(request, setup_id, body.channels, balancing.balance_bridges)
    actor = Actor.of(request)
    await in_thread(balancing.take_off_balance, actor, setup_id, body.channels)
    return []


@router.post(
    "/setups/{setup_id}/shunt-check/external", response=list[schemas.Outcome], auth=signed_in_async
)
async def external_shunt_check(
    request: HttpRequest, setup_id: Id, body: schemas.ExternalShuntIn
) -> Outcomes:
    """Check channels by a resistor that a person put on: by what it changed since the zero."""

    def keep(actor: Actor, setup_id: int, measured: dict[str, RestReading]) -> Outcomes:
        return shunts.keep_external_checks(actor, setup_id, measured, body.resistor)

    return await _at_rest(request, setup_id, body.channels, keep)


@router.post("/channels/{channel_id}/shunt-span", response=SetupOut)
def correct_by_shunt(request: HttpRequest, channel_id: Id) -> SetupOut:
    """Put the channel's span right by its newest shunt check, as a step that can be taken off."""
    channel = shunts.correct_by_shunt(Actor.of(request), channel_id)
    return setup_out(channel.setup_id)


@router.post("/setups/{setup_id}/tare", response=list[schemas.Outcome], auth=signed_in_async)
async def tare(request: HttpRequest, setup_id: Id, body: schemas.Chosen) -> Outcomes:
    return await _at_rest(request, setup_id, body.channels, services.keep_tares)
