from django.apps import AppConfig


class SetupsConfig(AppConfig):
    name = "yoke_server.setups"
    default_auto_field = "django.db.models.BigAutoField"
