from django.apps import AppConfig


class WireConfig(AppConfig):
    name = "yoke_server.wire"
    default_auto_field = "django.db.models.BigAutoField"
