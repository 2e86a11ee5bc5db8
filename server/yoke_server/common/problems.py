"""Errors as RFC 9457 problem details: what is wrong, where, and what to do."""

from typing import Any

from django.core.exceptions import ObjectDoesNotExist
from django.db import DataError, IntegrityError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, Throttled, ValidationError
from yoke_core.errors import CoreError


class Problem(Exception):
    """Something a person asked for that cannot be done."""

    def __init__(
        self, status: int, title: str, *, detail: str = "", field: str = "", hint: str = ""
    ) -> None:
        super().__init__(title)
        self.status = status
        self.title = title
        self.detail = detail
        self.field = field
        self.hint = hint


def answer(problem: Problem) -> HttpResponse:
    body = {"type": "about:blank", "title": problem.title, "status": problem.status}
    for name in ("detail", "field", "hint"):
        if value := getattr(problem, name):
            body[name] = value
    return JsonResponse(body, status=problem.status, content_type="application/problem+json")


def words(field: str) -> str:
    """`rated_output_mv_v` as a person says it."""
    return field.replace("_mv_v", "").replace("_", " ").strip().capitalize()


def from_validation(errors: list[dict[str, Any]]) -> Problem:
    """The first field at fault, in a sentence."""
    error = errors[0]
    field = str(error["loc"][-1])
    kind, given = error["type"], error.get("input")
    context = error.get("ctx", {})
    if kind == "missing":
        sentence = f"{words(field)} is missing."
    elif kind.startswith(("float", "int", "decimal")) or kind == "finite_number":
        sentence = f"{words(field)} must be a number."
    elif kind == "greater_than":
        sentence = f"{words(field)} must be above {context['gt']:g}, not {given}."
    elif kind in ("less_than_equal", "less_than"):
        sentence = f"{words(field)} must be at most {context.get('le', context.get('lt')):g}."
    elif kind == "greater_than_equal":
        sentence = f"{words(field)} must be at least {context['ge']:g}."
    elif kind == "string_too_short":
        sentence = f"{words(field)} is empty."
    elif kind in ("literal_error", "enum"):
        sentence = f"{words(field)} must be one of {context['expected']}."
    else:
        sentence = f"{words(field)}: {error['msg']}."
    return Problem(422, sentence, field=field, hint=f"Put {words(field).lower()} right.")


def install(api: NinjaAPI) -> None:
    """Answer every kind of failure of ``api`` with a problem document."""

    @api.exception_handler(Problem)
    def on_problem(request: HttpRequest, error: Problem) -> HttpResponse:
        return answer(error)

    @api.exception_handler(CoreError)
    def on_core(request: HttpRequest, error: CoreError) -> HttpResponse:
        return answer(Problem(422, str(error), field=error.argument, hint=error.hint))

    @api.exception_handler(ValidationError)
    def on_validation(request: HttpRequest, error: ValidationError) -> HttpResponse:
        return answer(from_validation(error.errors))

    @api.exception_handler(AuthenticationError)
    def on_stranger(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        return answer(Problem(401, "You are not signed in.", hint="Sign in and try again."))

    @api.exception_handler(ObjectDoesNotExist)
    def on_missing(request: HttpRequest, error: ObjectDoesNotExist) -> HttpResponse:
        return answer(Problem(404, "There is no such thing.", hint="Go back and choose again."))

    @api.exception_handler(Throttled)
    def on_throttled(request: HttpRequest, error: Throttled) -> HttpResponse:
        return answer(Problem(429, "Too many tries.", hint="Wait a minute, then try again."))

    @api.exception_handler(HttpError)
    def on_http(request: HttpRequest, error: HttpError) -> HttpResponse:
        return answer(Problem(error.status_code, str(error)))

    @api.exception_handler(IntegrityError)
    @api.exception_handler(DataError)
    def on_refused(request: HttpRequest, error: Exception) -> HttpResponse:
        return answer(
            Problem(422, "The database refused this value.", detail=str(error).split("\n")[0])
        )

    @api.exception_handler(OperationalError)
    def on_database(request: HttpRequest, error: OperationalError) -> HttpResponse:
        return answer(
            Problem(
                503,
                "The database does not take this now.",
                detail=str(error).split("\n")[0],
                hint="Check that PostgreSQL runs and that its disk has space, then try again.",
            )
        )
