"""What a report consists of: one thing below the other, each of some kind."""

from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.spec import Spec


class Paragraph(Spec):
    """Text as a person wrote it."""

    kind: Literal["paragraph"] = "paragraph"
    text: fields.Notes = ""


class RunSummary(Spec):
    """What was tested when, by whom, and how it was moved."""

    kind: Literal["run_facts"] = "run_facts"
    run: fields.Id


class ResultTable(Spec):
    """The results of a run by a recipe."""

    kind: Literal["result_table"] = "result_table"
    run: fields.Id
    recipe: fields.Id


class ResultPicture(Spec):
    """The picture of a run's results by a recipe."""

    kind: Literal["result_picture"] = "result_picture"
    run: fields.Id
    recipe: fields.Id


class TimePlot(Spec):
    """Channels of a run over its time."""

    kind: Literal["course"] = "course"
    run: fields.Id
    channels: Annotated[list[fields.Key], Field(min_length=1, max_length=12)]


class ChannelTable(Spec):
    """Inputs, sensors, scaling, zero and shunt check of a run's channels."""

    kind: Literal["channel_table"] = "channel_table"
    run: fields.Id


class RawData(Spec):
    """How much was recorded, what is missing, and the seal over it."""

    kind: Literal["raw_data"] = "raw_data"
    run: fields.Id


BlockSpec = Annotated[
    Paragraph | RunSummary | ResultTable | ResultPicture | TimePlot | ChannelTable | RawData,
    Field(discriminator="kind"),
]
BlockList = Annotated[list[BlockSpec], Field(max_length=60)]
