"""Blocks of a report, a folder each, in the order in which a run's report begins.

A new one is one line in `REPORT_BLOCKS`. See docs/kinds.md.
"""

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from yoke_server.kinds.union import union_of
from yoke_server.report.blocks.base import ReportBlock
from yoke_server.report.blocks.channel_table import ChannelTable
from yoke_server.report.blocks.paragraph import Paragraph
from yoke_server.report.blocks.raw_data import RawData
from yoke_server.report.blocks.result_figure import ResultFigure
from yoke_server.report.blocks.result_table import ResultTable
from yoke_server.report.blocks.run_summary import RunSummary
from yoke_server.report.blocks.time_plot import TimePlot

REPORT_BLOCKS: tuple[type[ReportBlock], ...] = (
    Paragraph,
    RunSummary,
    ResultTable,
    ResultFigure,
    TimePlot,
    ChannelTable,
    RawData,
)

if TYPE_CHECKING:
    BlockSpec = ReportBlock
else:
    BlockSpec = union_of(REPORT_BLOCKS)
BlockList = Annotated[list[BlockSpec], Field(max_length=60)]
