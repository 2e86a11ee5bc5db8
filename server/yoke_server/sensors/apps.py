from django.apps import AppConfig


class SensorsConfig(AppConfig):
    name = "yoke_server.sensors"
    default_auto_field = "django.db.models.BigAutoField"
