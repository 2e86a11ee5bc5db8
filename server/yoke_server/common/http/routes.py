"""Marks on API operations that the request guard needs before it reads a request."""

from collections.abc import Callable
from enum import StrEnum
from typing import Any, TypeVar

View = TypeVar("View", bound=Callable[..., Any])


class RouteClass(StrEnum):
    """How the request guard treats an operation."""

    ORDINARY = "ordinary"
    STOP = "stop"  # makes something stand: of signed-in people it waits for nothing
    HASHING = "hashing"  # costs the hash of a password
    LARGE_BODY = "large body"  # takes a file


def treated_as(route_class: RouteClass) -> Callable[[View], View]:
    """Mark the function of an operation (below its ``router.post``)."""

    def mark(view: View) -> View:
        view.route_class = route_class  # type: ignore[attr-defined]
        return view

    return mark
