"""Write the layout of live frames as TypeScript, for the web's decoder."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from yoke_server.live import protocol


def typescript() -> str:
    """The layout of live/protocol.py as constants."""
    lines = ["/** The layout of a live frame, written by `manage.py export_frame_layout`. */"]
    lines += [f"export const HEADER_BYTES = {protocol.HEADER_BYTES}", "export const HEADER = {"]
    place = 0
    for field, size in zip(protocol.HEADER_FIELDS, protocol.header_sizes(), strict=True):
        lines.append(f"  {field.name}: [{place}, '{field.view}'],")
        place += size
    lines += ["} as const", f"export const NO_RUN = {protocol.NO_RUN:g}"]
    for name, fields in (("ROW", protocol.ROW_FIELDS), ("BIN", protocol.BIN_FIELDS)):
        listed = ", ".join(f"'{field}'" for field in fields)
        lines.append(f"export const {name} = [{listed}] as const")
    return "\n".join(lines) + "\n"


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--output", required=True)

    def handle(self, *args: Any, output: str, **options: Any) -> None:
        Path(output).write_text(typescript())
