from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from django.utils.text import get_valid_filename
from ninja import Router, Status
from pydantic import Field

from yoke_server.accounts.actor import Actor
from yoke_server.common.http.columns import described_as
from yoke_server.common.http.fields import Id
from yoke_server.common.http.problems import Problem
from yoke_server.report.models import WiringSheet
from yoke_server.report.schemas import WiringSheetOut
from yoke_server.report.wiring_sheet import services

router = Router(tags=["report"])
ChannelKey = Annotated[str, Field(pattern=r"^[a-z0-9-]{0,12}$")]


@router.post("/setups/{setup_id}/wiring-sheet", response={202: WiringSheetOut})
def order_sheet(request: HttpRequest, setup_id: Id, channel: ChannelKey = "") -> Status[Any]:
    """Have the wiring sheet of a setup made, or of one channel; news tell when it is there."""
    return Status(202, _out(services.order_sheet(Actor.of(request), setup_id, channel)))


@router.get("/setups/{setup_id}/wiring-sheet", response=WiringSheetOut)
def sheet_state(request: HttpRequest, setup_id: Id, channel: ChannelKey = "") -> dict[str, object]:
    sheets = WiringSheet.objects.defer("pdf")
    sheet = sheets.filter(setup_id=setup_id, channel_key=channel).first()
    if sheet is None:
        raise Problem(404, "This setup has no wiring sheet yet.", hint="Make it first.")
    return _out(sheet)


@router.get("/setups/{setup_id}/wiring-sheet.pdf", openapi_extra=described_as("application/pdf"))
def sheet_file(request: HttpRequest, setup_id: Id, channel: ChannelKey = "") -> HttpResponse:
    sheets = WiringSheet.objects.select_related("setup")
    sheet = sheets.filter(setup_id=setup_id, channel_key=channel).first()
    if sheet is None or sheet.pdf is None:
        raise Problem(404, "This setup has no wiring sheet yet.", hint="Make it first.")
    name = get_valid_filename(f"wiring {sheet.setup.name} version {sheet.version}")
    return HttpResponse(
        bytes(sheet.pdf),
        content_type="application/pdf",
        headers={"Content-Disposition": content_disposition_header(False, f"{name}.pdf") or ""},
    )


def _out(sheet: WiringSheet) -> dict[str, object]:
    return {"version": sheet.version, "made_at": sheet.made_at, "problem": sheet.problem}
