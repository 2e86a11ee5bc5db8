"""What a block is, in a line of a list."""

from collections.abc import Sequence
from typing import Any

from yoke_server.derive.models import Recipe
from yoke_server.record.models import Run

KINDS = {
    "paragraph": "Text", "run_facts": "Facts", "result_table": "Results",
    "result_picture": "Picture", "course": "Channels over time",
    "channel_table": "Channels and calibration", "raw_data": "Data and seal",
}  # fmt: skip


def titles_of(blocks: Sequence[Any]) -> list[str]:
    """Kind, recipe and run of each block; said where one of them is gone."""
    runs = dict(
        Run.objects.filter(pk__in={getattr(b, "run", 0) for b in blocks}).values_list("pk", "name")
    )
    recipes = Recipe.objects.in_bulk({getattr(b, "recipe", 0) for b in blocks})
    return [_title(b, runs, recipes) for b in blocks]


def _title(block: Any, runs: dict[int, str], recipes: dict[int, Recipe]) -> str:
    words = [KINDS[block.kind]]
    if hasattr(block, "recipe"):
        recipe = recipes.get(block.recipe)
        words.append(f"of {recipe.parameters.words}" if recipe else "by a recipe that is gone")
    if hasattr(block, "run"):
        words.append(f"– {runs.get(block.run, 'a run that is gone')}")
    return " ".join(words)
