"""Zeros that a run takes by itself before it begins, while nothing is loaded."""

from yoke_server.accounts.actor import Actor
from yoke_server.bench.models import Order
from yoke_server.calibrate.services import Rest, keep_zeros, loaded_since_zero
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.chain import takes_zero
from yoke_server.record.preflight import is_zero_stale, require_startable
from yoke_server.record.queries import last_start
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup
from yoke_server.wire.orders import order_rest


def order_zeros(actor: Actor, setup_id: int) -> Order | None:
    """Have the channels measured that zero themselves and have no zero since the last run; None
    where there are none, or the run could not begin anyway."""
    setup = Setup.objects.select_related("bench").get(pk=setup_id)
    last = last_start(setup_id)
    if last is None:
        return None
    wanting = [
        c.key
        for c in freeze(setup).as_recorded.channels
        if c.zero_by_itself and takes_zero(c) and is_zero_stale(c, last)
    ]
    if not wanting:
        return None
    require_startable(setup)
    rows = setup.channels.filter(key__in=wanting).values_list("pk", flat=True)
    return order_rest(actor, setup_id, list(rows))


def keep_unloaded(actor: Actor, setup_id: int, measured: Rest) -> None:
    """Zero the measured channels, all or none; a 409 problem says which of them is loaded or not
    at rest."""
    why = loaded_since_zero(setup_id, measured)
    if not why:
        outcomes = keep_zeros(actor, setup_id, measured)
        why = next((str(o["problem"]) for o in outcomes if o["problem"]), "")
    if why:
        raise Problem(
            409,
            why,
            code=ProblemType.PREFLIGHT,
            field="zero_again",
            hint="Take all load off and start again, or zero it in Calibrate.",
        )
