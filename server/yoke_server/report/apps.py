from django.apps import AppConfig


class ReportConfig(AppConfig):
    name = "yoke_server.report"
    default_auto_field = "django.db.models.BigAutoField"
