"""Guards that a bench which moves asks for: none is taken for granted."""

from yoke_server.kinds.chain import per_signal
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.outside import Outside
from yoke_server.setups.document import FrozenChannel, FrozenSetup

GUARDED = "force"  # the quantity that something which moves may exceed


def unguarded(setup: FrozenSetup) -> list[FrozenChannel]:
    """Channels that no guard looks at though something moves that may overload them."""
    if not setup.motion.moves:
        return []
    guarded = {guard.channel for guard in setup.guards}
    return [c for c in setup.channels if c.quantity == GUARDED and c.key not in guarded]


def proposed_guard(channel: FrozenChannel) -> Outside:
    """At what its sensor bears, by its capacity or by its input's range; SI."""
    signal = channel.scaling.reach(channel.conditioning.reach)
    reach = float(f"{abs(signal * per_signal(channel)):.6g}")
    return Outside(channel=channel.key, lowest=-reach, highest=reach, action=GuardAction.HOLD)
