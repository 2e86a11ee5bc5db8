from django.apps import AppConfig


class DeriveConfig(AppConfig):
    name = "yoke_server.derive"
    default_auto_field = "django.db.models.BigAutoField"
