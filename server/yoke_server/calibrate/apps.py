from django.apps import AppConfig


class CalibrateConfig(AppConfig):
    name = "yoke_server.calibrate"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.calibrate.scaling import (
            per_signal_or_zero,
            reading_at_rest,
            resting_signal,
            scaling_problem,
            takes_zero,
        )
        from yoke_server.wire import hooks

        hooks.channel_facts |= {
            "per_signal": per_signal_or_zero,
            "resting_signal": resting_signal,
            "reading_at_rest": reading_at_rest,
            "scaling_problem": scaling_problem,
            "takes_zero": takes_zero,
        }
