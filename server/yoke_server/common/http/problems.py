"""Errors as RFC 9457 problem details: what is wrong, where, and what to do."""

import logging
from collections.abc import Sequence
from typing import Any

from django.core.exceptions import ObjectDoesNotExist
from django.db import DataError, IntegrityError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, Throttled, ValidationError
from yoke_core.errors import CoreError

from yoke_server.common.http.problem_types import OF_STATUS, ProblemType

log = logging.getLogger(__name__)


class Problem(Exception):
    """Something a person asked for that cannot be done."""

    def __init__(
        self,
        status: int,
        title: str,
        *,
        code: ProblemType | None = None,
        detail: str = "",
        field: str = "",
        hint: str = "",
    ) -> None:
        super().__init__(title)
        self.code = code or OF_STATUS.get(status, ProblemType.FAULT)
        self.status = status
        self.title = title
        self.detail = detail
        self.field = field
        self.hint = hint

    def document(self) -> dict[str, Any]:
        more = {"detail": self.detail, "field": self.field, "hint": self.hint}
        said = {name: text for name, text in more.items() if text}
        return {
            "type": f"/problems/{self.code}",
            "title": self.title,
            "status": self.status,
            **said,
        }


def answer(problem: Problem) -> HttpResponse:
    return JsonResponse(
        problem.document(), status=problem.status, content_type="application/problem+json"
    )


# How a field's name ends, and the unit that it means; longer ends first.
UNITS = {
    "_ohm_per_m": "Ω/m",
    "_mv_v": "mV/V",
    "_m_s": "m/s",
    "_n_s": "N/s",
    "_ohm": "Ω",
    "_m2": "m²",
    "_hz": "Hz",
    "_pa": "Pa",
    "_m": "m",
    "_v": "V",
    "_s": "s",
    "_n": "N",
}


def _apart(field: str) -> tuple[str, str]:
    """The name and the unit of `channels.1.rated_output_mv_v`."""
    last = next((part for part in reversed(field.split(".")) if not part.isdigit()), field)
    end = next((e for e in UNITS if last.endswith(e)), "")
    return last.removesuffix(end).replace("_", " ").strip().capitalize(), UNITS.get(end, "")


def words(field: str) -> str:
    """A field as a person says it."""
    return _apart(field)[0]


def unit_of(field: str) -> str:
    """The unit that a field's name says it has; empty where it says none."""
    return _apart(field)[1]


TAGS: set[str] = set()  # kinds of specs: pydantic puts them into an error's place


def from_validation(errors: list[dict[str, Any]]) -> Problem:
    """The first field at fault, in a sentence."""
    error = errors[0]
    place = error["loc"][2:] if error["loc"][0] == "body" else error["loc"][1:]
    field = ".".join(map(str, _without_tags(place))) or "body"
    sentence = _sentence(*_apart(field), error["type"], error.get("ctx", {}), error["msg"])
    return Problem(422, sentence, field=field, hint=f"Put {words(field).lower()} right.")


def _without_tags(place: Sequence[str | int]) -> list[str | int]:
    """The first kind in a place, and those behind a number in a list, name no field."""
    tags = [i for i, part in enumerate(place) if part in TAGS]
    named = {i for i in tags if i == tags[0] or isinstance(place[i - 1], int)}
    return [part for i, part in enumerate(place) if i not in named]


NUMBERS = ("float", "int", "decimal", "finite_number")


def _sentence(name: str, unit: str, kind: str, context: dict[str, Any], message: str) -> str:
    """What is wrong with a value, by pydantic's kind of error."""
    least, most = (f"{context.get(end, 0):g} {unit}".strip() for end in ("ge", "le"))
    says = {
        "missing": "is missing",
        "extra_forbidden": "is not known here",
        "greater_than_equal": f"must be at least {least}",
        "less_than_equal": f"must be at most {most}",
        "string_type": "must be text",
        "string_too_short": "is empty",
        "string_too_long": f"has more than {context.get('max_length')} characters",
        "string_unicode": "holds characters that are no text",
        "bool_type": "must be true or false",
        "bool_parsing": "must be true or false",
        "list_type": "must be a list",
        "too_short": "is empty",
        "too_long": f"has more than {context.get('max_length')} entries",
        "literal_error": f"must be one of {context.get('expected')}",
        "text_character": message,
        "rule": message,  # of ours, said of the field
    }
    if kind in says:
        return f"{name} {says[kind]}."
    if kind.startswith(NUMBERS):
        return f"{name} must be a number."
    return f"{name} is not what is expected here."


# What an answer says that comes from elsewhere: (title, hint) by status.
WORDS = {
    400: ("The request cannot be read.", "Send JSON (RFC 8259) in UTF-8."),
    401: ("You are not signed in.", "Sign in and try again."),
    403: ("The page is too old.", "Load it again, then try again."),
    404: ("There is no such thing.", "Go back and choose again."),
    405: ("This cannot be done here.", "Look into the description of the API."),
    408: ("The request came too slowly.", "Check the connection, then try again."),
    413: ("The request is too large.", "Send less at once."),
    415: ("The request is of a kind that is not read here.", "Send JSON."),
    429: ("Too many tries.", "Wait a minute, then try again."),
    503: ("The server is busy.", "Wait a moment, then try again."),
}
FAULT = ("Something went wrong in the server.", "Try again; if it stays so, look into its log.")


def of_status(status: int) -> Problem:
    """A problem in our words for an answer that brings none."""
    title, hint = WORDS.get(status, FAULT if status >= 500 else WORDS[400])
    return Problem(status, title, hint=hint)


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
        return answer(of_status(401))

    @api.exception_handler(ObjectDoesNotExist)
    def on_missing(request: HttpRequest, error: ObjectDoesNotExist) -> HttpResponse:
        return answer(of_status(404))

    @api.exception_handler(Throttled)
    def on_throttled(request: HttpRequest, error: Throttled) -> HttpResponse:
        return answer(of_status(429))

    @api.exception_handler(HttpError)
    def on_http(request: HttpRequest, error: HttpError) -> HttpResponse:
        return answer(of_status(error.status_code))

    @api.exception_handler(IntegrityError)
    @api.exception_handler(DataError)
    def on_refused(request: HttpRequest, error: Exception) -> HttpResponse:
        log.error("The database refused: %s", error)
        return answer(
            Problem(
                409,
                "This does not fit with what is stored.",
                code=ProblemType.CONFLICT,
                hint="Load the page again: somebody may have changed the same.",
            )
        )

    @api.exception_handler(OperationalError)
    def on_database(request: HttpRequest, error: OperationalError) -> HttpResponse:
        log.error("The database: %s", error)
        return answer(
            Problem(
                503,
                "The database does not take this now.",
                hint="Check that PostgreSQL runs and that its disk has space, then try again.",
            )
        )


def reason(problem: Problem) -> str:
    """A problem as the words of a cell: without the sentence's end."""
    text = problem.title.rstrip(".")
    return text[:1].lower() + text[1:]
