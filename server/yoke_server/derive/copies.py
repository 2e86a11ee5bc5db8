"""Copying the recipes of a setup that is duplicated."""

import json

from yoke_server.derive.models import Recipe
from yoke_server.setups.models import Setup


def copy_recipes(original: Setup, copy: Setup, keys: dict[str, str]) -> None:
    """The original's recipes, about the copy's channels; ``keys`` says which became which."""
    for recipe in original.recipes.order_by("pk"):
        text = recipe.parameters.model_dump_json()
        for was, now in keys.items():
            text = text.replace(f'"{was}"', f'"{now}"')
        Recipe.objects.create(setup=copy, parameters=json.loads(text))
