"""Hooks with which higher applications forbid changes of a bench."""

from collections.abc import Callable

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem

locks: list[Callable[[int], str]] = []  # of a bench: what is being recorded on it, or ""


def require_unlocked(bench_id: int, then: str = "change the setup") -> None:
    """Raise a 409 problem while something holds the bench fast; ``then`` is what has to wait."""
    for holds in locks:
        if name := holds(bench_id):
            raise Problem(
                409,
                f"{name} is being recorded.",
                code=ProblemType.BEING_RECORDED,
                hint=f"Stop it, then {then}.",
            )
