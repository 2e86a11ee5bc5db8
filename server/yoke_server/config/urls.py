from django.urls import path, re_path

from yoke_server.config.api import api
from yoke_server.config.pages import page

urlpatterns = [
    path("api/", api.urls),
    re_path(r"^(?!api/|assets/).*$", page),
]
