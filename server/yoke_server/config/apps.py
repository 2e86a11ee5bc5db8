from django.apps import AppConfig


class ConfigConfig(AppConfig):
    name = "yoke_server.config"

    def ready(self) -> None:
        from yoke_server.config import checks  # noqa: F401 (registers them)
