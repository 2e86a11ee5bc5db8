from django.apps import AppConfig


class CalibrateConfig(AppConfig):
    name = "yoke_server.calibrate"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.calibrate.facts import of_channel, of_lines
        from yoke_server.wire import hooks

        hooks.channel_facts.append(of_channel)
        hooks.line_facts.append(of_lines)
