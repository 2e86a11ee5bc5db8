"""The class of a request's operation, by the marks on the operations of the API."""

import re
from functools import cache
from re import Pattern

from ninja import NinjaAPI

from yoke_server.common.http.routes import RouteClass

PARAMETER = re.compile(r"{(?:\w+:)?\w+}")


def route_class(method: str, path: str) -> RouteClass:
    """How the request guard treats a request."""
    for found, methods, address in _marked():
        if method in methods and address.fullmatch(path):
            return found
    return RouteClass.ORDINARY


@cache
def _marked() -> list[tuple[RouteClass, frozenset[str], Pattern[str]]]:
    from yoke_server.config.api import api

    return marked(api)


def marked(api: NinjaAPI) -> list[tuple[RouteClass, frozenset[str], Pattern[str]]]:
    """The operations of an API that are marked: class, methods and addresses."""
    return [
        (operation.view_func.route_class, frozenset(operation.methods), _address(prefix + path))
        for prefix, router in api._routers
        for path, view in router.path_operations.items()
        for operation in view.operations
        if hasattr(operation.view_func, "route_class")
    ]


def _address(path: str) -> Pattern[str]:
    parts = PARAMETER.split(path)
    return re.compile("/api" + "[^/]+".join(map(re.escape, parts)))
