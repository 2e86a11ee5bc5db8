from typing import Any

from django.apps import AppConfig


class LedgerConfig(AppConfig):
    name = "yoke_server.ledger"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.accounts.services import person_added
        from yoke_server.ledger.services import record

        def note(sender: type, name: str, role: str, **more: Any) -> None:
            record(None, f"Added {name} as {role}")

        person_added.connect(note, weak=False)
