"""Pictures of instruments, by which they are found on the shelf."""

import io

from django.db import transaction
from PIL import Image, ImageOps

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.notify import NEWS, notify
from yoke_server.common.problems import Problem
from yoke_server.ledger.services import record
from yoke_server.wire.models import Picture, Sensor

FORMATS = ("JPEG", "PNG", "WEBP")
LONGEST_SIDE = 800  # px, as it is kept
MOST_PIXELS = 50_000_000  # that are decoded
NO_PICTURE = (OSError, ValueError, SyntaxError, EOFError, Image.DecompressionBombError)


def fitted(content: bytes) -> bytes:
    """A small JPEG of a picture, upright, on white, with nothing but what is to be seen.

    What a camera notes beside it (where, when, whose) is not kept. Raises a 422 problem for
    what is no picture, or has too many pixels to be decoded.
    """
    try:
        with Image.open(io.BytesIO(content), formats=FORMATS) as given:
            if given.width * given.height > MOST_PIXELS:
                raise Problem(
                    422, f"The picture has {given.width} x {given.height} pixels.", field="file",
                    hint=f"Save it with at most {MOST_PIXELS // 1_000_000} million.",
                )  # fmt: skip
            given.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
            upright = ImageOps.exif_transpose(given).convert("RGBA")
    except NO_PICTURE as error:
        raise Problem(
            422, "The file is no picture.", field="file", hint="Choose a JPEG, PNG or WebP file."
        ) from error
    sheet = Image.new("RGB", upright.size, "white")
    sheet.paste(upright, mask=upright)
    out = io.BytesIO()
    sheet.save(out, "JPEG", quality=85)
    return out.getvalue()


@transaction.atomic
def give(actor: Actor, sensor_id: int, content: bytes) -> None:
    """The instrument's picture from now on."""
    require(actor, "keep the library")
    image = fitted(content)
    sensor = Sensor.objects.select_for_update().get(pk=sensor_id)
    Picture.objects.filter(sensor=sensor).delete()
    Picture.objects.create(sensor=sensor, image=image)
    record(actor, f"Gave {sensor.serial} a picture")
    notify(NEWS, kind="library")


@transaction.atomic
def take_away(actor: Actor, sensor_id: int) -> None:
    require(actor, "keep the library")
    sensor = Sensor.objects.select_for_update().get(pk=sensor_id)
    deleted, _ = Picture.objects.filter(sensor=sensor).delete()
    if deleted:
        record(actor, f"Took away the picture of {sensor.serial}")
        notify(NEWS, kind="library")
