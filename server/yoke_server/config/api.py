"""The HTTP API: routers of the stages under /api, problem details for errors."""

from typing import Any

from django.http import HttpRequest
from ninja import NinjaAPI
from ninja.openapi.schema import OpenAPISchema
from pydantic.json_schema import models_json_schema

from yoke_server.accounts.api import router as accounts
from yoke_server.accounts.signed_in import signed_in
from yoke_server.api.calibrate import router as calibrate
from yoke_server.api.calibrations import router as calibrations
from yoke_server.api.channels import router as channels
from yoke_server.api.computed import router as computed
from yoke_server.api.corrections import router as corrections
from yoke_server.api.grid import router as grid
from yoke_server.api.pages import router as pages
from yoke_server.api.plugs import router as plugs
from yoke_server.api.programmes import router as programmes
from yoke_server.api.projects import router as projects
from yoke_server.api.revisions import router as revisions
from yoke_server.api.setups import router as setups
from yoke_server.api.sign_test import router as sign
from yoke_server.api.since import router as since
from yoke_server.api.units import router as units
from yoke_server.api.wiring_check import router as wiring_check
from yoke_server.bench.api import router as bench
from yoke_server.common.http import problems
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.config.error_responses import NumbersOnly
from yoke_server.derive.api import router as derive
from yoke_server.derive.curves.api import router as curves
from yoke_server.exchange.api import router as exchange
from yoke_server.exchange.importing.api import router as importing
from yoke_server.live.protocol import SENT_IN_PART, SENT_WHOLE
from yoke_server.record.api import router as record
from yoke_server.record.signal_check.api import router as signal_check
from yoke_server.report.api import router as report
from yoke_server.report.wiring_sheet.api import router as wiring_sheet
from yoke_server.sensors.api import router as library

PROBLEM: dict[str, object] = {
    "type": "object",
    "required": ["type", "title", "status"],
    "properties": {
        "type": {"type": "string", "enum": [f"/problems/{t}" for t in ProblemType]},
        "title": {"type": "string"},
        "status": {"type": "integer"},
        "detail": {"type": "string"},
        "field": {"type": "string"},
        "hint": {"type": "string"},
    },
}
PROBLEM_RESPONSES: dict[str, object] = {
    "description": "A problem (RFC 9457): what is wrong, where, and what to do.",
    "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
}


REF = "#/components/schemas/{model}"


class YokeAPI(NinjaAPI):
    def get_openapi_schema(self, **options: Any) -> OpenAPISchema:
        """The OpenAPI description, with the problem responses added to every operation."""
        found = super().get_openapi_schema(**options)
        schemas = found["components"]["schemas"]
        schemas["Problem"] = PROBLEM
        _, described = models_json_schema(
            [
                *((m, "serialization") for m in SENT_WHOLE),
                *((m, "validation") for m in SENT_IN_PART),
            ],
            ref_template=REF,
        )
        schemas |= described["$defs"]
        found["components"]["responses"] = {"Problem": PROBLEM_RESPONSES}
        for methods in found["paths"].values():
            for operation in methods.values():
                operation["responses"].setdefault(
                    "default", {"$ref": "#/components/responses/Problem"}
                )
        return found


api = YokeAPI(
    title="Yoke Bench",
    version="1",
    auth=signed_in,
    docs_url=None,
    openapi_url=None,
    renderer=NumbersOnly(),
)
problems.install(api)
for router in (
    accounts,
    bench,
    projects,
    pages,
    signal_check,
    programmes,
    setups,
    channels,
    computed,
    corrections,
    units,
    wiring_check,
    plugs,
    sign,
    since,
    grid,
    library,
    revisions,
    calibrate,
    calibrations,
    record,
    curves,
    derive,
    report,
    wiring_sheet,
    exchange,
    importing,
):
    api.add_router("", router)


@api.get("/openapi.json", include_in_schema=False)
def description(request: HttpRequest) -> dict[str, object]:
    """The API's OpenAPI document, for those who are signed in."""
    return dict(api.get_openapi_schema())
