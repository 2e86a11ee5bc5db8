"""Setups kept as templates, and setups begun with them."""

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.ledger.services import record
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup, SetupTemplate
from yoke_server.setups.page_keeping import own_pages
from yoke_server.setups.pages import stored
from yoke_server.setups.revisions.services import make_setup

MEASURED = (
    "zero",
    "zeroed_at",
    "tare",
    "tared_at",
    "shunt_expected_mv_v",
    "shunt_measured_mv_v",
    "shunt_at",
    "shunt_resistor",
)
MAX_TEMPLATES = 100


@transaction.atomic
def keep_template(actor: Actor, setup_id: int, name: str) -> SetupTemplate:
    """Keep a setup as it stands under a name; one of that name that is there is replaced."""
    require(actor, "arrange projects")
    setup = Setup.objects.select_related("bench", "project").get(pk=setup_id)
    frozen = freeze(setup)
    bare = [c.model_copy(update=dict.fromkeys(MEASURED)) for c in frozen.channels]
    document = frozen.model_copy(update={"channels": bare}).model_dump(mode="json")
    known = SetupTemplate.objects.filter(name=name).exists()
    if not known and SetupTemplate.objects.count() >= MAX_TEMPLATES:
        raise Problem(
            409,
            f"There are {MAX_TEMPLATES} templates already.",
            code=ProblemType.LIMIT_REACHED,
            hint="Take one away first.",
        )
    pages = stored(own_pages(setup))
    kept = {"document": document, "pages": pages, "bench": setup.bench, "actor": actor.user}
    template, _ = SetupTemplate.objects.update_or_create(name=name, defaults=kept)
    record(actor, f"Kept {setup.name} of {setup.project.name} as the template {name}")
    return template


@transaction.atomic
def remove_template(actor: Actor, template_id: int) -> None:
    """Setups that were begun with it stay as they are."""
    require(actor, "arrange projects")
    template = SetupTemplate.objects.get(pk=template_id)
    template.delete()
    record(actor, f"Took the template {template.name} away")


def begin_with_template(
    actor: Actor, project_id: int, *, template_id: int, bench_id: int, name: str
) -> Setup:
    """A setup as its template says; its channels get keys of their own, and no zeros."""
    template = SetupTemplate.objects.get(pk=template_id)
    return make_setup(
        actor,
        project_id,
        bench_id=bench_id,
        name=name,
        document=template.document,
        pages=template.pages,
    )
