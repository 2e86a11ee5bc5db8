"""The page that loads the web application for every address."""

from functools import cache

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe

from yoke_server.common.http.problem_types import MEANINGS


@cache
def _index() -> bytes:
    file = settings.WEB_DIST / "index.html"
    return file.read_bytes() if file.is_file() else b"The web part is not built: run ./yoke demo."


@require_safe
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    return HttpResponse(_index(), headers={"Cache-Control": "no-cache"})


@require_safe
def problem_page(request: HttpRequest, code: str) -> HttpResponse:
    """What a problem of a type means: its ``type`` is the address of this page."""
    meanings = {str(known): meaning for known, meaning in MEANINGS.items()}
    if code not in meanings:
        raise Http404
    return HttpResponse(f"{code}: {meanings[code]}\n", content_type="text/plain; charset=utf-8")
