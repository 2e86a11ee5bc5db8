from typing import Any

from django.apps import AppConfig


class ReportConfig(AppConfig):
    name = "yoke_server.report"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from django.db.models import Count

        from yoke_server.common.prepared import ASKED, Prepared, counted
        from yoke_server.report.models import Report
        from yoke_server.wire import hooks

        written = Prepared(lambda: counted(Report.objects.filter(project_id=ASKED), "project_id"))

        def reports(setup: Any, more: Any) -> dict[str, int]:
            return {"reports": written.number(setup.project_id)}

        def of_lines(setups: Any, channels: Any) -> dict[int, dict[str, int]]:
            of_page = Report.objects.filter(project__in={s.project_id for s in setups})
            counts = dict(
                of_page.values("project_id").annotate(n=Count("pk")).values_list("project_id", "n")
            )
            return {s.pk: {"reports": counts.get(s.project_id, 0)} for s in setups}

        hooks.setup_facts.append(reports)
        hooks.line_facts.append(of_lines)
