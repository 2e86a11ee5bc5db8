"""The protocol of export formats."""

from collections.abc import Iterator, Mapping
from typing import ClassVar, NamedTuple

from yoke_server.exchange.rows import Exported

Options = Mapping[str, str]


class Variant(NamedTuple):
    """One way in which a format is offered to people."""

    title: str
    options: dict[str, str]


class Format:
    """A format of files; ``options`` are what each option may be, the usual one first."""

    name: ClassVar[str]  # in addresses
    ending: ClassVar[str]
    media_type: ClassVar[str]
    options: ClassVar[dict[str, tuple[str, ...]]] = {}
    variants: ClassVar[tuple[Variant, ...]]

    def write(self, of: Exported, options: Options) -> Iterator[bytes]:
        """The file in parts; its memory does not grow with the run."""
        raise NotImplementedError
