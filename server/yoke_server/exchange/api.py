import asyncio
from collections.abc import AsyncIterator, Iterator
from typing import Literal

from django.http import HttpRequest, StreamingHttpResponse
from django.utils.http import content_disposition_header
from django.utils.text import get_valid_filename
from ninja import Router

from yoke_server.accounts.signed_in import signed_in_async
from yoke_server.bench.waiting import in_thread, let_go
from yoke_server.common.http.columns import described_as
from yoke_server.common.http.fields import Id
from yoke_server.exchange.csv import SIGNS, csv_parts
from yoke_server.exchange.parquet import parquet_parts
from yoke_server.exchange.rows import exported

router = Router(tags=["exchange"])
export_slots = asyncio.Semaphore(2)  # parts computed at once, of all exports


@router.get(
    "/runs/{run_id}/streams/{stream_id}.csv",
    openapi_extra=described_as("text/csv"),
    auth=signed_in_async,
)
async def export_csv(
    request: HttpRequest, run_id: Id, stream_id: Id, decimal: Literal["point", "comma"] = "point"
) -> StreamingHttpResponse:
    """What a device recorded in a run: comments, names, units, then a row a sample."""
    of = await in_thread(exported, run_id, stream_id)
    return _streamed(csv_parts(of, SIGNS[decimal]), f"{of.file_name}.csv", "text/csv")


@router.get(
    "/runs/{run_id}/streams/{stream_id}.parquet",
    openapi_extra=described_as("application/vnd.apache.parquet"),
    auth=signed_in_async,
)
async def export_parquet(request: HttpRequest, run_id: Id, stream_id: Id) -> StreamingHttpResponse:
    """The same as Apache Parquet, units and scaling in the columns' metadata."""
    of = await in_thread(exported, run_id, stream_id)
    kind = "application/vnd.apache.parquet"
    return _streamed(parquet_parts(of), f"{of.file_name}.parquet", kind)


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
