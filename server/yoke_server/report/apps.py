from typing import Any

from django.apps import AppConfig


class ReportConfig(AppConfig):
    name = "yoke_server.report"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.common.prepared import ASKED, Prepared, counted
        from yoke_server.report.models import Report
        from yoke_server.wire import hooks

        written = Prepared(lambda: counted(Report.objects.filter(project_id=ASKED), "project_id"))

        def reports(setup: Any, more: Any) -> dict[str, int]:
            return {"reports": written.number(setup.project_id)}

        hooks.setup_facts.append(reports)
        hooks.line_facts.append(reports)
