"""What the wiring checks and sign tests say of a channel, and how warm a gauge makes itself."""

from functools import lru_cache

from yoke_core.bridge.heating import Substrate, heat_density, heating

from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import Offers
from yoke_server.setups.models import Channel
from yoke_server.wire.check.schemas import CheckOut
from yoke_server.wire.check.subject import wired_as
from yoke_server.wire.models import SignTest, WiringCheck
from yoke_server.wire.schemas import HeatingOut
from yoke_server.wire.sign.clear import CLEAR, smallest
from yoke_server.wire.sign.schemas import SignOut, SignTestOut
from yoke_server.wire.sign.words import ELSE, WAYS, swapped_cores


def check_out(channel: Channel, check: WiringCheck | None) -> CheckOut | None:
    """What the newest check of a channel found."""
    if check is None:
        return None
    about = {"at": check.at, "old": check.of != wired_as(channel)}
    return CheckOut.model_validate({**check.found, **about})


def heating_out(channel: Channel) -> HeatingOut | None:
    """How warm a gauge makes itself; nothing where its grid's area is not known."""
    grid, supply_v = channel.wiring.heated_grid, channel.conditioning.supply_v
    if grid is None or supply_v is None:
        return None
    given = supply_v, grid.resistance_ohm, grid.area_m2
    if grid.substrate is None:
        return HeatingOut(density_w_m2=heat_density(*given))
    return _heating(*given, grid.substrate, registry.offers(channel.input.device.driver))


@lru_cache(maxsize=1000)
def _heating(
    supply_v: float, resistance_ohm: float, area_m2: float, substrate: Substrate, offers: Offers
) -> HeatingOut:
    """The same for the same gauges: a bench has many of a lot."""
    found = heating(supply_v, resistance_ohm, area_m2, substrate, offers.excitations_v)
    return HeatingOut.model_validate(found)


def sign_out(channel: Channel, test: SignTest | None) -> SignOut:
    """What counts positive for a channel, and what its newest test showed."""
    way = WAYS.get(channel.quantity, ELSE)
    return SignOut(
        counts=way.counts,
        positive=way.positive,
        negative=way.negative,
        swap=swapped_cores(channel),
        clear=CLEAR,
        smallest=smallest(channel.unit, channel.decimals),
        test=_test_out(channel, test),
    )


def _test_out(channel: Channel, test: SignTest | None) -> SignTestOut | None:
    if test is None:
        return None
    old = test.of != wired_as(channel)
    return SignTestOut(at=test.at, old=old, passed=test.passed, moved=test.moved)
