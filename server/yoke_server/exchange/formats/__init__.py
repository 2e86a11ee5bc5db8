"""Formats in which streams go out, a module each; a new one is one line in `FORMATS`."""

from yoke_server.exchange.formats.base import Format
from yoke_server.exchange.formats.csv import Csv
from yoke_server.exchange.formats.parquet import Parquet

FORMATS: tuple[Format, ...] = (Csv(), Parquet())
BY_NAME: dict[str, Format] = {f.name: f for f in FORMATS}
