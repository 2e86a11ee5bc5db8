"""The fingerprint of what a wiring check depends on; another one makes the check outdated."""

from yoke_server.kinds.spec import plain_spec
from yoke_server.setups.document import fingerprint_of
from yoke_server.setups.models import Channel

NOT_MEASURED = {"grid_area_m2", "ground"}  # of a wiring: no check depends on them


def wired_as(channel: Channel) -> str:
    """A fingerprint of all that a check depends on."""
    wiring = {k: v for k, v in plain_spec(channel.wiring).items() if k not in NOT_MEASURED}
    return fingerprint_of(
        {
            "input": channel.input_id,
            "sensor": channel.sensor_id,
            "wiring": wiring,
            "conditioning": plain_spec(channel.conditioning),
            "polarity": channel.polarity,
        }
    )
