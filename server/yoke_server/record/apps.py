from django.apps import AppConfig
from django.db.models.signals import post_migrate


class RecordConfig(AppConfig):
    name = "yoke_server.record"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.bench.hooks import locks
        from yoke_server.record.grants import grant
        from yoke_server.record.setup_runs import recording_on

        locks.append(recording_on)

        post_migrate.connect(grant, sender=self)  # sent when all applications have migrated
