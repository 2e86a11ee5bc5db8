"""Problem documents for every error response, and JSON without NaN or infinity."""

from collections.abc import Awaitable, Callable
from inspect import iscoroutinefunction
from typing import Any

from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.utils.decorators import sync_and_async_middleware
from ninja.renderers import JSONRenderer

from yoke_server.bench.waiting import let_go
from yoke_server.common.http.problems import Problem, answer, of_status

PROBLEM = "application/problem+json"


def in_our_words(response: HttpResponseBase) -> HttpResponseBase:
    """An error answer that is not ours (Django's 404, ninja's 405) as a problem."""
    if response.status_code < 400 or response.headers.get("Content-Type") == PROBLEM:
        return response
    problem = answer(of_status(response.status_code))
    if allowed := response.headers.get("Allow"):
        problem["Allow"] = allowed
    return problem


@sync_and_async_middleware
def problem_answers(get_response: Callable[[HttpRequest], Any]) -> Callable[[HttpRequest], Any]:
    if iscoroutinefunction(get_response):

        async def asynchronous(request: HttpRequest) -> HttpResponseBase:
            waiting: Awaitable[HttpResponseBase] = get_response(request)
            answered = in_our_words(await waiting)
            await let_go()  # whoever takes the answer slowly keeps no connection meanwhile
            return answered

        return asynchronous

    def synchronous(request: HttpRequest) -> HttpResponseBase:
        return in_our_words(get_response(request))

    return synchronous


class NumbersOnly(JSONRenderer):
    """JSON as RFC 8259 knows it: a figure beyond all numbers is a problem, not "NaN"."""

    json_dumps_params = {"allow_nan": False}

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> Any:
        try:
            return super().render(request, data, response_status=response_status)
        except ValueError as error:
            raise Problem(
                422,
                "A figure of this is beyond what can be computed.",
                hint="Look for a setting that is very large or very small.",
            ) from error
