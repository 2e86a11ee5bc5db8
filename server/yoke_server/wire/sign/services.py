"""Keeping what a test of the sign showed."""

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.ledger.services import record
from yoke_server.setups.services import lock_channel
from yoke_server.wire.check.subject import wired_as
from yoke_server.wire.models import SignTest
from yoke_server.wire.sign.clear import is_clear
from yoke_server.wire.sign.words import ELSE, WAYS


@transaction.atomic
def keep_sign_test(
    actor: Actor,
    channel_id: int,
    *,
    positive: bool,
    polarity: str,
    moved: float,
    deviation: float,
) -> SignTest:
    """What somebody did to a channel's part, and by how much it went; the newest test counts.

    ``moved`` and the ``deviation`` of the reading are SI of its quantity. Raises a 409 problem
    where the channel was turned while it was watched, a 422 one where it did not clearly move.
    """
    require(actor, "zero and check channels")
    setup, channel = lock_channel(channel_id)
    if channel.polarity != polarity:
        raise Problem(
            409,
            f"{channel.name} was turned meanwhile.",
            code=ProblemType.CHANGED_MEANWHILE,
            field="polarity",
            hint="Test it again.",
        )
    if not is_clear(moved, deviation, channel.unit, channel.decimals):
        raise Problem(
            422,
            f"{channel.name} did not clearly move.",
            field="moved",
            hint="Load the part by hand and hold it, then say how.",
        )
    test = SignTest.objects.create(
        setup=setup,
        channel_key=channel.key,
        actor=actor.user,
        positive=positive,
        moved=moved,
        of=wired_as(channel),
    )
    known = WAYS.get(channel.quantity, ELSE)
    did = known.positive if positive else known.negative
    way = "as it should" if test.passed else "the wrong way"
    record(actor, f"{did}: {channel.name} reads {way}")
    notify(NEWS, kind="setup", setup=setup.pk, bench=setup.bench_id, by="sign")
    return test
