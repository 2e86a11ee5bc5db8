"""A stream of a run as Apache Parquet: units and scaling stand in the columns' metadata."""

import json
from collections.abc import Iterator
from typing import Any, ClassVar

from yoke_server.exchange.formats.base import Format, Options, Variant
from yoke_server.exchange.rows import Exported, columns, header_lines
from yoke_server.record.samples import type_of
from yoke_server.setups.readable import ReadableChannel


class _Parts:
    """A file that keeps what was written until it is taken."""

    closed = False

    def __init__(self) -> None:
        self._parts: list[bytes] = []
        self._size = 0

    def write(self, data: Any) -> int:
        self._parts.append(bytes(data))
        self._size += len(data)
        return len(data)

    def tell(self) -> int:
        return self._size

    def flush(self) -> None: ...
    def close(self) -> None: ...
    def take(self) -> bytes:
        found, self._parts = b"".join(self._parts), []
        return found


class Parquet(Format):
    name: ClassVar = "parquet"
    ending: ClassVar = ".parquet"
    media_type: ClassVar = "application/vnd.apache.parquet"
    variants: ClassVar = (Variant("Parquet", {}),)

    def write(self, of: Exported, options: Options) -> Iterator[bytes]:
        return parquet_parts(of)


def parquet_parts(of: Exported) -> Iterator[bytes]:
    """The file in parts, a row group each; its memory does not grow with the run."""
    import pyarrow as pa
    import pyarrow.parquet as pq

    kind = type_of(of.stream)
    schema = _schema(of, pa)
    file = _Parts()
    with pq.ParquetWriter(file, schema, compression="NONE", use_dictionary=False) as writer:
        for seconds, *readings in columns(of):
            arrays = [pa.array(seconds), *(pa.array(r.astype(kind)) for r in readings)]
            writer.write_table(pa.Table.from_arrays(arrays, schema=schema))
            yield file.take()
    yield file.take()


def _schema(of: Exported, pa: Any) -> Any:
    kind = pa.from_numpy_dtype(type_of(of.stream))
    fields = [pa.field("time", pa.float64(), metadata={"unit": "s"})]
    for channel in of.channels:
        about = {"unit": channel.unit, "chain": json.dumps(_chain_of(of, channel))}
        fields.append(pa.field(channel.name, kind, metadata=about))
    return pa.schema(fields, metadata={"source": "\n".join(header_lines(of))})


def _chain_of(of: Exported, channel: ReadableChannel) -> dict[str, object]:
    """What a channel's readings follow from."""
    if channel.measured is None:
        return of.readings.definition(channel.key)
    kept = {"wiring", "scaling", "zero", "tare", "polarity", "steps", "quantity", "sensor_serial"}
    found: dict[str, object] = channel.measured.model_dump(mode="json", include=kept)
    corrections = [c.model_dump(mode="json") for c in of.readings.corrections_of(channel.key)]
    return found | ({"corrections": corrections} if corrections else {})
