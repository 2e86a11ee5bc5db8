"""Pages of panes as they are kept: a person's own of a setup, and the setup's."""

from dataclasses import dataclass

from django.db import transaction
from django.db.models import Q

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.ledger.services import record
from yoke_server.setups.models import Setup, SetupPages
from yoke_server.setups.pages import Page, read_pages, stored


@dataclass(frozen=True, slots=True)
class KeptPages:
    """``own``: somebody's own, None if they have none; ``everybody``: the setup's, likewise;
    ``problem``: why some that are there cannot be shown."""

    own: list[Page] | None
    everybody: list[Page] | None
    problem: str = ""


def pages_of(actor: Actor, setup_id: int) -> KeptPages:
    """What a person sees of a setup."""
    Setup.objects.only("pk").get(pk=setup_id)
    seen_by = Q(owner=None) | Q(owner=actor.user)
    found: dict[bool, list[Page]] = {}
    problem = ""
    for row in SetupPages.objects.filter(seen_by, setup_id=setup_id):
        try:
            found[row.owner_id is not None] = read_pages(row.document)
        except ValueError as error:
            problem = str(error)
    return KeptPages(found.get(True), found.get(False), problem)


@transaction.atomic
def keep_pages(actor: Actor, setup_id: int, pages: list[Page], *, for_everybody: bool) -> KeptPages:
    """Keep somebody's own pages; or the setup's, which becomes what they see too."""
    setup = Setup.objects.select_for_update().get(pk=setup_id)
    owner = None if for_everybody else actor.user
    if for_everybody:
        require(actor, "change the specimen")
        SetupPages.objects.filter(setup=setup, owner=actor.user).delete()
        record(actor, f"Arranged the pages of {setup.name} for everybody")
    SetupPages.objects.update_or_create(
        setup=setup, owner=owner, defaults={"document": stored(pages)}
    )
    return pages_of(actor, setup_id)


@transaction.atomic
def drop_own_pages(actor: Actor, setup_id: int) -> KeptPages:
    """Somebody looks at the setup's pages again."""
    SetupPages.objects.filter(setup_id=setup_id, owner=actor.user).delete()
    return pages_of(actor, setup_id)


def own_pages(setup: Setup) -> list[Page]:
    """The setup's own; none where nobody arranged them, or by a newer version."""
    row = SetupPages.objects.filter(setup=setup, owner=None).first()
    return pages_in(row.document if row else None)


def pages_in(document: dict[str, object] | None) -> list[Page]:
    """Those of a document that can be read; else none."""
    try:
        return read_pages(document) if document else []
    except ValueError:
        return []


def take_along(pages: list[Page], copy: Setup, keys: dict[str, str]) -> None:
    """A setup that is made after another looks alike; ``keys`` of its channels by the old ones."""
    if pages:
        again = [page.with_channels(keys) for page in pages]
        SetupPages.objects.create(setup=copy, document=stored(again))
