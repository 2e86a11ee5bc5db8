from django.apps import AppConfig


class LedgerConfig(AppConfig):
    name = "yoke_server.ledger"
    default_auto_field = "django.db.models.BigAutoField"
