"""Pictures of instruments, by which they are found on the shelf."""

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.tasks.isolated_reader import read_apart
from yoke_server.ledger.services import record
from yoke_server.sensors.models import Picture, Sensor

SMALL_PICTURE = "yoke_server.sensors.small_picture"


def fitted(content: bytes) -> bytes:
    """A small JPEG of a picture; raises a 422 problem for what is none, or too large."""
    hint = "Choose a JPEG, PNG or WebP file."
    return read_apart(SMALL_PICTURE, content, what="picture", hint=hint)


def give(actor: Actor, sensor_id: int, content: bytes) -> None:
    """The instrument's picture from now on."""
    require(actor, "keep the library")
    _keep(actor, sensor_id, fitted(content))


@transaction.atomic
def _keep(actor: Actor, sensor_id: int, image: bytes) -> None:
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
