"""Calibrations against known loads."""

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.signed_in import signed_in_async
from yoke_server.bench.waiting import answer_to, in_thread
from yoke_server.calibrate.calibrations import schemas, services
from yoke_server.calibrate.calibrations.queries import calibration_lines, calibration_of
from yoke_server.common.http.fields import Id
from yoke_server.kinds.orders.measuring import RestReadings
from yoke_server.report.calibration_certificate.services import accept_and_print, order_certificate
from yoke_server.wire.orders import order_rest

router = Router(tags=["calibrate"])


@router.get("/setups/{setup_id}/calibrations", response=list[schemas.CalibrationLine])
def list_calibrations(request: HttpRequest, setup_id: Id) -> list[schemas.CalibrationLine]:
    return calibration_lines(setup_id)


@router.post("/channels/{channel_id}/calibrations", response={201: schemas.CalibrationOut})
def begin_calibration(
    request: HttpRequest, channel_id: Id, body: schemas.PlanIn
) -> Status[schemas.CalibrationOut]:
    """Begin to calibrate the channel's sensor against known loads."""
    made = services.begin_calibration(Actor.of(request), channel_id, body.plan)
    return Status(201, calibration_of(made.pk))


@router.get("/calibrations/{calibration_id}", response=schemas.CalibrationOut)
def show_calibration(request: HttpRequest, calibration_id: Id) -> schemas.CalibrationOut:
    return calibration_of(calibration_id)


@router.post(
    "/calibrations/{calibration_id}/capture",
    response=schemas.CalibrationOut,
    auth=signed_in_async,
)
async def capture(
    request: HttpRequest, calibration_id: Id, body: schemas.CaptureIn
) -> schemas.CalibrationOut:
    """Measure the channel, and its reference, as a step's point; refused while they move."""
    actor = Actor.of(request)
    setup_id, channels = await in_thread(services.channels_to_measure, actor, calibration_id)
    order = await in_thread(order_rest, actor, setup_id, channels)
    found = await answer_to(order, RestReadings)
    await in_thread(services.keep_capture, actor, calibration_id, body.step, found.root)
    return await in_thread(calibration_of, calibration_id)


@router.post("/calibrations/{calibration_id}/leave-out", response=schemas.CalibrationOut)
def leave_out(
    request: HttpRequest, calibration_id: Id, body: schemas.LeaveOutIn
) -> schemas.CalibrationOut:
    """Leave a step out with a reason; capturing it again takes it in."""
    services.leave_out(Actor.of(request), calibration_id, body.step, body.reason)
    return calibration_of(calibration_id)


@router.post("/calibrations/{calibration_id}/give-up", response=schemas.CalibrationOut)
def give_up(request: HttpRequest, calibration_id: Id) -> schemas.CalibrationOut:
    services.give_up(Actor.of(request), calibration_id)
    return calibration_of(calibration_id)


@router.post("/calibrations/{calibration_id}/accept", response=schemas.CalibrationOut)
def accept(
    request: HttpRequest, calibration_id: Id, body: schemas.AcceptIn
) -> schemas.CalibrationOut:
    """Keep its certificate, and put its scaling in force."""
    actor = Actor.of(request)
    accept_and_print(actor, calibration_id, number=body.number, due_on=body.due_on)
    return calibration_of(calibration_id)


@router.post("/calibrations/{calibration_id}/certificate", response={202: schemas.CalibrationOut})
def print_certificate(request: HttpRequest, calibration_id: Id) -> Status[schemas.CalibrationOut]:
    """Have the PDF made once more, where making it failed; news tell when it is there."""
    order_certificate(Actor.of(request), calibration_id)
    return Status(202, calibration_of(calibration_id))
