from typing import Any

from django.apps import AppConfig


class DeriveConfig(AppConfig):
    name = "yoke_server.derive"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.common.prepared import ASKED, Prepared, counted
        from yoke_server.derive.copies import copy_recipes
        from yoke_server.derive.models import Derivation
        from yoke_server.derive.queries import of_lines
        from yoke_server.derive.tasks import order_results
        from yoke_server.record.hooks import run_changed
        from yoke_server.wire import hooks, projects

        computed = Prepared(
            lambda: counted(
                Derivation.objects.filter(run__setup_id=ASKED, details__isnull=False),
                "run__setup_id",
            )
        )

        def results(setup: Any, frozen: Any) -> dict[str, int]:
            return {"results": computed.number(setup.pk)}

        hooks.setup_facts.append(results)
        hooks.line_facts.append(of_lines)
        projects.copied.append(copy_recipes)

        def compute(sender: type, run: Any, **more: object) -> None:
            order_results(run.setup_id, run.pk)

        run_changed.connect(compute, weak=False)
