from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "yoke_server.bench"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.accounts.services import rights_ended
        from yoke_server.bench.services import on_rights_ended
        from yoke_server.bench.statements import LIVE_READS
        from yoke_server.live.hub import hub

        rights_ended.connect(on_rights_ended)
        hub.read_by(LIVE_READS)
