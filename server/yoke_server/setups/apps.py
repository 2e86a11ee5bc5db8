from django.apps import AppConfig


class SetupsConfig(AppConfig):
    name = "yoke_server.setups"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.common.units import find_own_units_by
        from yoke_server.setups.laboratory_units import stored_units

        find_own_units_by(stored_units)
