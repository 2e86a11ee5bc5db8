from typing import TYPE_CHECKING

from django.apps import AppConfig
from django.db.models.signals import post_migrate

if TYPE_CHECKING:
    from yoke_server.record.models import Run


class RecordConfig(AppConfig):
    name = "yoke_server.record"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.bench.hooks import locks
        from yoke_server.record.grants import grant
        from yoke_server.record.hooks import run_changed
        from yoke_server.record.setup_runs import recording_on
        from yoke_server.record.tasks import order_readings

        locks.append(recording_on)

        def compute(sender: type, run: "Run", **more: object) -> None:
            order_readings(run)

        run_changed.connect(compute, weak=False)

        post_migrate.connect(grant, sender=self)  # sent when all applications have migrated
