from django.apps import AppConfig


class RecordConfig(AppConfig):
    name = "yoke_server.record"
    default_auto_field = "django.db.models.BigAutoField"
