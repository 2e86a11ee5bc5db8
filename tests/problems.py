"""Reading the type of a problem from an answer, independent of its wording."""

from typing import Any


def code_of(answer: Any) -> str:
    """The last part of a problem's type; see docs/problems.md."""
    assert answer["Content-Type"] == "application/problem+json"
    return answer.json()["type"].rpartition("/")[2]
