"""The protocol of report blocks."""

import inspect
from functools import cache
from pathlib import Path
from typing import ClassVar

from django.template import Context, Engine, Template
from django.utils.safestring import SafeString

from yoke_server.common.http import fields
from yoke_server.common.http.problems import Problem
from yoke_server.derive.models import Recipe
from yoke_server.kinds.spec import Spec
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.readings.definitions import channels_of


class ReportBlock(Spec):
    """One thing in a report; printed by the ``block.html`` beside it, with its `contents`."""

    title: ClassVar[str]
    is_at_start: ClassVar[bool] = True  # whether a report begins with what is offered

    @classmethod
    def offers(cls, run: Run) -> list["ReportBlock"]:
        """Blocks of this kind that a run has something for."""
        return []

    def contents(self) -> dict[str, object]:
        """What its template prints, as text; every number with its unit."""
        raise NotImplementedError

    def line(self, runs: dict[int, str], recipes: dict[int, Recipe]) -> str:
        """What it is, in a line of a list; ``runs`` are names by number."""
        return self.title

    @property
    def runs(self) -> set[int]:
        """Runs of which it shows something."""
        return set()

    @property
    def derived(self) -> set[tuple[int, int]]:
        """Run and recipe of the results that it shows."""
        return set()

    def check(self, place: int, runs: dict[int, Run]) -> None:
        """Raise a 422 problem for what it asks for in vain; ``runs`` are the project's."""

    def html(self) -> SafeString:
        return _template(type(self)).render(Context(self.contents()))


@cache
def _template(block: type[ReportBlock]) -> Template:
    file = Path(inspect.getfile(block)).with_name("block.html")
    return Engine.get_default().from_string(file.read_text())


def problem_of(place: int, field: str, title: str, hint: str) -> Problem:
    return Problem(422, title, field=f"blocks.{place}.{field}", hint=hint)


class RunBlock(ReportBlock):
    """A block about one run."""

    run: fields.Id

    @property
    def runs(self) -> set[int]:
        return {self.run}

    def run_row(self) -> Run:
        return Run.objects.select_related("setup__project", "operator", "revision").get(pk=self.run)

    def line(self, runs: dict[int, str], recipes: dict[int, Recipe]) -> str:
        return f"{self.title} – {runs.get(self.run, 'a run that is gone')}"

    def check(self, place: int, runs: dict[int, Run]) -> None:
        run = runs.get(self.run)
        if run is None:
            title = "This project has no such run."
            raise problem_of(place, "run", title, "Choose one of its runs.")
        if run.state in OPEN_STATES:
            raise problem_of(place, "run", f"{run.name} is still being recorded.", "Stop it first.")


class ChannelsBlock(RunBlock):
    """A block about some channels of a run."""

    channels: list[fields.Key]

    def check(self, place: int, runs: dict[int, Run]) -> None:
        super().check(place, runs)
        run = runs[self.run]
        if set(self.channels) - {c.key for c in channels_of(run)}:
            raise problem_of(
                place, "channels", f"{run.name} has no such channel.", "Choose others."
            )
