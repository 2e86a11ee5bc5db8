from django.apps import AppConfig


class ExchangeConfig(AppConfig):
    name = "yoke_server.exchange"
    default_auto_field = "django.db.models.BigAutoField"
