"""The application's addresses, and one bare Django view beside them: the floor of any answer."""

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, JsonResponse
from django.urls import path
from yoke_server.config.urls import urlpatterns as ours
from yoke_server.record.models import Run


@login_not_required
def one_row(request: HttpRequest) -> JsonResponse:
    return JsonResponse(Run.objects.values("id", "name").first())


urlpatterns = [path("bare", one_row), *ours]
