from collections.abc import Iterator
from typing import ClassVar

from yoke_server.exchange.formats.base import Format, Options, Variant
from yoke_server.exchange.rows import Exported, columns


class Counted(Format):
    """A made-up format: how many rows there are, and nothing else."""

    name: ClassVar = "counted"
    ending: ClassVar = ".txt"
    media_type: ClassVar = "text/plain"
    options: ClassVar = {"word": ("rows", "lines")}
    variants: ClassVar = (Variant("Counted", {}),)

    def write(self, of: Exported, options: Options) -> Iterator[bytes]:
        rows = sum(len(table[0]) for table in columns(of))
        yield f"{rows} {options['word']}\n".encode()
