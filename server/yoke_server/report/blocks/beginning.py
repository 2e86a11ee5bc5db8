"""The blocks with which a run's report begins."""

from typing import Any

from yoke_server.record.models import Run
from yoke_server.record.queries import document_of
from yoke_server.report.blocks.specs import (
    ChannelTable,
    RawData,
    ResultPicture,
    ResultTable,
    RunSummary,
    TimePlot,
)

MAX_TIME_PLOTS = 9


def blocks_of(run: Run) -> list[Any]:
    """Facts, each result with its picture, the channels over time, where all comes from."""
    found: list[Any] = [RunSummary(run=run.pk)]
    for recipe in run.setup.recipes.order_by("pk"):
        found += [
            ResultTable(run=run.pk, recipe=recipe.pk),
            ResultPicture(run=run.pk, recipe=recipe.pk),
        ]
    keys = [c.key for c in document_of(run).channels]
    if keys:
        found.append(TimePlot(run=run.pk, channels=keys[:MAX_TIME_PLOTS]))
    return [*found, ChannelTable(run=run.pk), RawData(run=run.pk)]


def title_of(run: Run) -> str:
    """What a report on a run is called at first."""
    document = document_of(run)
    piece = document.specimen.specimen
    coupon = run.setup.recipes.filter(parameters__kind="tension").exists()
    return f"Tension test of {piece}" if coupon else f"{document.name} test of {piece}"
