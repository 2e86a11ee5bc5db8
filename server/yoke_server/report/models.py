from django.db import models

from yoke_server.kinds.spec import SpecField
from yoke_server.record.models import Run
from yoke_server.report.blocks import BlockList
from yoke_server.setups.models import Project, Setup


class Report(models.Model):
    """A report of a project: blocks in order; PDF and page pictures are made by the worker.

    ``run`` is the run that it was begun with.
    """

    project = models.ForeignKey(Project, models.CASCADE, related_name="reports")
    run = models.ForeignKey(Run, models.CASCADE, related_name="reports")
    number = models.CharField(max_length=30)
    revision = models.CharField(max_length=6, default="A")
    title = models.CharField(max_length=120)
    remarks = models.TextField(default="", blank=True)
    blocks: BlockList = SpecField(BlockList, default=list)  # type: ignore[assignment]
    changed_at = models.DateTimeField(auto_now=True)
    pdf = models.BinaryField(null=True)
    pdf_made_from = models.CharField(max_length=64, default="")
    pdf_at = models.DateTimeField(null=True)
    problem = models.CharField(max_length=300, default="")  # why the last one was not made

    @property
    def blocks_runs(self) -> set[int]:
        """Runs that its blocks are about."""
        return {run for block in self.blocks for run in block.runs}


class ReportPage(models.Model):
    """One page of the PDF as PNG, for the screen."""

    report = models.ForeignKey(Report, models.CASCADE, related_name="pages")
    number = models.PositiveSmallIntegerField()
    png = models.BinaryField()

    class Meta:
        ordering = ["number"]


class WiringSheet(models.Model):
    """The newest wiring sheet of a setup, or of one of its channels (by key).

    It is made by the worker, of the version that it found.
    """

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="wiring_sheets")
    channel_key = models.CharField(max_length=12, default="", blank=True)
    version = models.PositiveIntegerField(default=0)
    pdf = models.BinaryField(null=True)
    made_at = models.DateTimeField(null=True)
    problem = models.CharField(max_length=300, default="")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["setup", "channel_key"], name="wiring_sheet_once")
        ]
