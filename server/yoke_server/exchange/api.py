import asyncio
from collections.abc import AsyncIterator, Iterator

from django.http import HttpRequest, StreamingHttpResponse
from django.utils.http import content_disposition_header
from django.utils.text import get_valid_filename
from ninja import Router

from yoke_server.accounts.signed_in import signed_in_async
from yoke_server.bench.waiting import in_thread, let_go
from yoke_server.common.http.columns import described_as
from yoke_server.common.http.fields import Id, Name
from yoke_server.common.http.problems import Problem
from yoke_server.exchange.formats import BY_NAME, FORMATS
from yoke_server.exchange.formats.base import Format
from yoke_server.exchange.rows import exported
from yoke_server.exchange.schemas import FormatOut

router = Router(tags=["exchange"])
export_slots = asyncio.Semaphore(2)  # parts computed at once, of all exports


@router.get("/formats", response=list[FormatOut])
def list_formats(request: HttpRequest) -> list[dict[str, object]]:
    """In which files a stream of a run can be taken along."""
    return [
        {"name": f.name, "title": v.title, "options": v.options}
        for f in FORMATS
        for v in f.variants
    ]


@router.get(
    "/runs/{run_id}/streams/{stream_id}/files/{name}",
    openapi_extra=described_as(*(f.media_type for f in FORMATS)),
    auth=signed_in_async,
)
async def export_stream(
    request: HttpRequest, run_id: Id, stream_id: Id, name: Name
) -> StreamingHttpResponse:
    """What a device recorded in a run, as a file of a format (see `/api/formats`); the format's
    options are parameters of the address."""
    chosen = BY_NAME.get(name)
    if chosen is None:
        raise Problem(404, f"There is no format {name}.", hint=f"Choose {', '.join(BY_NAME)}.")
    options = _options(chosen, request)
    of = await in_thread(exported, run_id, stream_id)
    return _streamed(chosen.write(of, options), f"{of.file_name}{chosen.ending}", chosen.media_type)


def _options(chosen: Format, request: HttpRequest) -> dict[str, str]:
    """What each option of the format is; the usual one where the address says nothing."""
    found = {}
    for option, choices in chosen.options.items():
        found[option] = str(request.GET.get(option, choices[0]))
        if found[option] not in choices:
            raise Problem(
                422,
                f"The {option} cannot be “{found[option][:20]}”.",
                field=option,
                hint=f"Choose {' or '.join(choices)}.",
            )
    return found


def _streamed(parts: Iterator[bytes], name: str, kind: str) -> StreamingHttpResponse:
    disposition = content_disposition_header(True, get_valid_filename(name))
    headers = {"Content-Disposition": disposition or "attachment"}
    return StreamingHttpResponse(_parts(parts), content_type=kind, headers=headers)


async def _parts(parts: Iterator[bytes]) -> AsyncIterator[bytes]:
    """Compute each part under the limit, then send it. While it is sent no slot and no database
    connection is occupied."""
    while True:
        async with export_slots:
            part = await in_thread(next, parts, None)
            await let_go()
        if part is None:
            return
        yield part
