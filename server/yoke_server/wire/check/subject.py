"""What a check is about: another wiring makes it an old one."""

from yoke_server.wire.document import digest_of
from yoke_server.wire.models import Channel
from yoke_server.wire.specs.base import plain_spec


def wired_as(channel: Channel) -> str:
    """A digest of all that a check depends on."""
    return digest_of(
        {
            "input": channel.input_id, "sensor": channel.sensor_id,
            "wiring": plain_spec(channel.wiring), "conditioning": plain_spec(channel.conditioning),
            "reversed": channel.reversed,
        }
    )  # fmt: skip
