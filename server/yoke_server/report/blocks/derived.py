"""What blocks about results have in common."""

from yoke_server.common.http import fields
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.derive.models import Derivation, Recipe
from yoke_server.record.models import Run
from yoke_server.report.blocks.base import RunBlock, problem_of


class ResultBlock(RunBlock):
    """A block about the results of a run by a recipe."""

    recipe: fields.Id

    @property
    def derived(self) -> set[tuple[int, int]]:
        return {(self.run, self.recipe)}

    def line(self, runs: dict[int, str], recipes: dict[int, Recipe]) -> str:
        recipe = recipes.get(self.recipe)
        of = f"of {recipe.parameters.words}" if recipe else "by a recipe that is gone"
        return f"{self.title} {of} – {runs.get(self.run, 'a run that is gone')}"

    def check(self, place: int, runs: dict[int, Run]) -> None:
        super().check(place, runs)
        run = runs[self.run]
        if not Recipe.objects.filter(pk=self.recipe, setup_id=run.setup_id).exists():
            title = f"{run.name} has no results by that recipe."
            raise problem_of(place, "recipe", title, "Choose one of its recipes.")

    def derivation(self) -> Derivation:
        """What the worker computed; raises a 409 problem where there is nothing to show."""
        kept = Derivation.objects.filter(run=self.run, recipe=self.recipe)
        found = kept.select_related("run", "recipe").prefetch_related("results", "arrays").first()
        if found is None or found.problem or found.details is None:
            name, why = Run.objects.get(pk=self.run).name, found.problem if found else None
            said = why["title"] if why else "there are none yet."
            raise Problem(
                409,
                f"{name} has no results to show: {said}",
                code=ProblemType.NO_RESULT,
                hint="Look into Derive, or take the block out.",
            )
        return found
