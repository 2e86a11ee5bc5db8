"""Programmes kept under a name, to be used by any setup."""

from dataclasses import dataclass

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.motions.programme import Programme
from yoke_server.ledger.services import record
from yoke_server.setups.models import NamedProgramme, Setup
from yoke_server.setups.services import change_setup

MAX_PROGRAMMES = 100


@dataclass(frozen=True, slots=True)
class KeptProgramme:
    """What people see of a programme kept under a name; ``channels``: names that it looks at."""

    id: int
    name: str
    legs: int
    sentence: str
    channels: list[str]


def programmes() -> list[KeptProgramme]:
    """By name."""
    return [
        KeptProgramme(
            row.pk, row.name, len(row.motion.parts), row.motion.sentence, [*row.channels.values()]
        )
        for row in NamedProgramme.objects.order_by("name")
    ]


@transaction.atomic
def keep_programme(actor: Actor, setup_id: int, name: str) -> None:
    """Keep a setup's programme under a name; one of that name that is there is replaced."""
    require(actor, "change the specimen")
    setup = Setup.objects.get(pk=setup_id)
    if not isinstance(setup.motion, Programme):
        raise Problem(
            409,
            f"The motion of {setup.name} is no programme.",
            code=ProblemType.NOTHING_TO_DO,
            hint="Choose a programme as its motion first.",
        )
    known = NamedProgramme.objects.filter(name=name).exists()
    if not known and NamedProgramme.objects.count() >= MAX_PROGRAMMES:
        raise Problem(
            409,
            f"There are {MAX_PROGRAMMES} programmes already.",
            code=ProblemType.LIMIT_REACHED,
            hint="Take one away first.",
        )
    looked_at = {key for leg in setup.motion.legs for key in leg.channels}
    names = {key: name for key, name in _names_of(setup).items() if key in looked_at}
    NamedProgramme.objects.update_or_create(
        name=name, defaults={"motion": setup.motion, "channels": names, "actor": actor.user}
    )
    record(actor, f"Kept the programme of {setup.name} as {name}")


@transaction.atomic
def remove_programme(actor: Actor, programme_id: int) -> None:
    """Setups that took it stay as they are."""
    require(actor, "change the specimen")
    row = NamedProgramme.objects.get(pk=programme_id)
    row.delete()
    record(actor, f"Took the programme {row.name} away")


def use_programme(actor: Actor, setup_id: int, programme_id: int) -> Setup:
    """Have a setup do what a kept programme says; the channels that it looks at are found by
    their names. A 409 problem names one that is not there."""
    row = NamedProgramme.objects.get(pk=programme_id)
    setup = Setup.objects.get(pk=setup_id)
    keys = {name: key for key, name in _names_of(setup).items()}
    if missing := next((name for name in row.channels.values() if name not in keys), None):
        raise Problem(
            409,
            f"{row.name} looks at a channel {missing}, which {setup.name} does not have.",
            code=ProblemType.CONFLICT,
            hint=f"Name a channel {missing}, or set the legs by hand.",
        )
    motion = row.motion.with_channels({old: keys[name] for old, name in row.channels.items()})
    return change_setup(actor, setup_id, motion=motion)


def _names_of(setup: Setup) -> dict[str, str]:
    """Names of measured and computed channels by their keys."""
    measured = dict(setup.channels.values_list("key", "name"))
    return measured | {c.key: c.name for c in setup.computed}
