"""The one page of the web part; it finds its own way from the address."""

from functools import cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe


@cache
def _index() -> bytes:
    file = settings.WEB_DIST / "index.html"
    return file.read_bytes() if file.is_file() else b"The web part is not built: run ./yoke demo."


@require_safe
@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    return HttpResponse(_index(), headers={"Cache-Control": "no-cache"})
