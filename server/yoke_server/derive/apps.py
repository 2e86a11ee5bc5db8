from typing import Any

from django.apps import AppConfig


class DeriveConfig(AppConfig):
    name = "yoke_server.derive"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.derive.copies import copy_recipes
        from yoke_server.derive.tasks import order_results
        from yoke_server.record.hooks import run_changed
        from yoke_server.setups import projects

        projects.copied.append(copy_recipes)

        def compute(sender: type, run: Any, **more: object) -> None:
            order_results(run.setup_id, run.pk)

        run_changed.connect(compute, weak=False)
