from typing import TYPE_CHECKING

from django.apps import AppConfig

if TYPE_CHECKING:
    from yoke_server.record.models import Run


class ReportConfig(AppConfig):
    name = "yoke_server.report"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from yoke_server.record.hooks import holders

        def report_with(run: "Run") -> str:
            from yoke_server.report.models import Report

            reports = Report.objects.filter(project_id=run.setup.project_id)
            found = [r for r in reports if r.run_id == run.pk or run.pk in r.blocks_runs]
            return f"report {found[0].number}" if found else ""

        holders.append(report_with)
