from django.urls import path, re_path

from yoke_server.config.api import api
from yoke_server.config.pages import page, problem_page

urlpatterns = [
    path("api/", api.urls),
    path("problems/<slug:code>", problem_page),
    re_path(r"^(?!api/|assets/).*$", page),
]
