"""A file in the database: its parts come in order, and it is read as one stream."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from tempfile import NamedTemporaryFile

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.exchange.models import FilePart, FileState, ImportedFile
from yoke_server.setups.models import Setup

MAX_FILE_BYTES = 2 << 30  # bytes
LARGEST_PART = 192 << 10
KEPT = timedelta(days=1)
MAX_OF_ONE = 5  # files that one person may have waiting


@transaction.atomic
def announce(actor: Actor, setup_id: int, name: str, size: int) -> ImportedFile:
    """A file is about to come; what was left lying since yesterday goes."""
    require(actor, "import files")
    if not 0 < size <= MAX_FILE_BYTES:
        what = "is empty" if size <= 0 else f"is larger than {MAX_FILE_BYTES >> 30} GB"
        raise Problem(422, f"{name} {what}.", field="size", hint="Choose another file.")
    ImportedFile.objects.filter(at__lt=datetime.now(UTC) - KEPT).delete()
    waiting = ImportedFile.objects.filter(owner=actor.user).exclude(state=FileState.READ)
    for old in waiting.order_by("-at")[MAX_OF_ONE - 1 :]:
        if old.state != FileState.READING:
            old.delete()
    setup = Setup.objects.get(pk=setup_id)
    return ImportedFile.objects.create(setup=setup, owner=actor.user, name=name, size=size)


def own(actor: Actor, key: str) -> ImportedFile:
    """A person's file; raises a 404 problem for another's or none."""
    require(actor, "import files")
    file = ImportedFile.objects.filter(pk=key, owner=actor.user).first()
    if file is None:
        raise Problem(404, "There is no such file any more.", hint="Choose it again.")
    return file


@transaction.atomic
def add_part(actor: Actor, key: str, at: int, data: bytes) -> ImportedFile:
    """The bytes from ``at`` on; the same part twice is one, so a broken link may go on."""
    own(actor, key)
    file = ImportedFile.objects.select_for_update().get(pk=key)
    if at + len(data) <= file.received:
        return file
    if at != file.received or not 0 < len(data) <= min(LARGEST_PART, file.size - at):
        raise Problem(
            409,
            f"The part at {at} does not fit on: {file.received} bytes are here.",
            code=ProblemType.OUT_OF_ORDER,
            field="at",
            hint="Go on from there.",
        )
    FilePart.objects.create(file=file, at=at, data=data)
    file.received += len(data)
    file.state = FileState.HERE if file.received == file.size else FileState.COMING
    file.save(update_fields=["received", "state"])
    return file


@contextmanager
def on_disk(file: ImportedFile, separator: str, most: int | None = None) -> Iterator[str]:
    """The path of a copy of the file, or of its first ``most`` bytes, while it is worked with.

    Of several blanks that separate two fields one is left.
    """
    with NamedTemporaryFile(prefix="import-") as copy:
        rest = b""
        for data in _parts(file, file.size if most is None else most):
            lines, _, rest = (rest + data).rpartition(b"\n")
            copy.write(_one_blank(lines + b"\n") if separator == " " else lines + b"\n")
        copy.write(_one_blank(rest) if separator == " " else rest)
        copy.flush()
        yield copy.name


def _parts(file: ImportedFile, end: int) -> Iterator[bytes]:
    at = 0
    while at < end:
        data = bytes(FilePart.objects.values_list("data", flat=True).get(file=file, at=at))
        yield data[: end - at]
        at += len(data)


def _one_blank(lines: bytes) -> bytes:
    return b"\n".join(b" ".join(line.split()) for line in lines.split(b"\n"))


def bytes_at(file: ImportedFile, at: int, count: int) -> bytes:
    """Some bytes from a place in the file."""
    first = file.parts.filter(at__lte=at).order_by("-at").values_list("at", flat=True).first()
    parts = file.parts.filter(at__gte=first or 0, at__lt=at + count)
    data = b"".join(bytes(p.data) for p in parts)
    return data[at - (first or 0) :][:count]
