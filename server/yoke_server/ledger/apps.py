from typing import Any

from django.apps import AppConfig


class LedgerConfig(AppConfig):
    name = "yoke_server.ledger"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.accounts.actor import Actor
        from yoke_server.accounts.services import noted
        from yoke_server.ledger.services import record

        def note(sender: type, actor: Actor | None, action: str, **more: Any) -> None:
            record(actor, action)

        noted.connect(note, weak=False)
