from typing import Annotated

from django.http import HttpRequest
from ninja import Router
from pydantic import Field

from yoke_server.accounts.actor import Actor
from yoke_server.common.http.fields import Answer, Body, Id
from yoke_server.setups import page_keeping
from yoke_server.setups.pages import VERSION, Page, PageList

router = Router(tags=["record"])


class PagesOut(Answer):
    """Pages of panes: one's own, and the setup's; null where there are none."""

    own: list[Page] | None
    everybody: list[Page] | None
    problem: str


class PagesIn(Body):
    """``version``: of what pages consist of, as the client knows it."""

    version: Annotated[int, Field(ge=1, le=VERSION)]
    pages: PageList
    for_everybody: bool = False


@router.get("/setups/{setup_id}/pages", response=PagesOut)
def pages(request: HttpRequest, setup_id: Id) -> page_keeping.KeptPages:
    return page_keeping.pages_of(Actor.of(request), setup_id)


@router.put("/setups/{setup_id}/pages", response=PagesOut)
def keep_pages(request: HttpRequest, setup_id: Id, body: PagesIn) -> page_keeping.KeptPages:
    """Keep one's own pages, or with ``for_everybody`` the setup's."""
    actor = Actor.of(request)
    return page_keeping.keep_pages(actor, setup_id, body.pages, for_everybody=body.for_everybody)


@router.delete("/setups/{setup_id}/pages", response=PagesOut)
def drop_own_pages(request: HttpRequest, setup_id: Id) -> page_keeping.KeptPages:
    """Look at the setup's pages again."""
    return page_keeping.drop_own_pages(Actor.of(request), setup_id)
