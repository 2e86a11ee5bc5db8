from typing import Any

from django.apps import AppConfig


class ReportConfig(AppConfig):
    name = "yoke_server.report"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.report.models import Report
        from yoke_server.wire import hooks

        def reports(setup: Any, more: Any) -> dict[str, int]:
            return {"reports": Report.objects.filter(project=setup.project_id).count()}

        hooks.setup_facts.append(reports)
        hooks.line_facts.append(reports)
