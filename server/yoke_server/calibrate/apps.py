from django.apps import AppConfig


class CalibrateConfig(AppConfig):
    name = "yoke_server.calibrate"
    default_auto_field = "django.db.models.BigAutoField"
