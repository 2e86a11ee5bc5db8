"""What people send to change projects and setups."""

from typing import Annotated, Literal

from ninja import Schema

from yoke_server.common.http import fields
from yoke_server.common.http.fields import Body, Id, Text, unset
from yoke_server.kinds.guards import GuardList
from yoke_server.kinds.keep_rules import KeepRuleList
from yoke_server.kinds.motions import MotionSpec
from yoke_server.kinds.specimens import SpecimenSpec
from yoke_server.kinds.stops import StopList
from yoke_server.kinds.triggers import TriggerSpec
from yoke_server.setups.lists import AskedList, BatchList

ProjectText = Annotated[str, Text(0, 80)]


class ProjectIn(Body):
    """A project; the article is what is tested, the standard how."""

    name: Annotated[str, Text(1, 80)]
    customer: ProjectText = ""
    article: Annotated[str, Text(0, 120)] = ""
    standard: ProjectText = ""


class ProjectChange(Body):
    """What is left out stays."""

    name: Annotated[str, Text(1, 80)] = unset()
    customer: ProjectText = unset()
    article: Annotated[str, Text(0, 120)] = unset()
    standard: ProjectText = unset()


class SetupPresetOut(Schema):
    """A kind of test that a setup can begin as."""

    kind: str
    name: str


class SetupIn(Body):
    kind: Literal["tension", "component", "measuring"]
    bench_id: Id
    name: Annotated[str, Text(1, 80)]


class RateChange(Body):
    rate_hz: fields.Rate


class SpecimenChange(Body):
    """The test piece; what is left out stays."""

    specimen: fields.Name = unset()
    piece: SpecimenSpec = unset()


class SetupChange(SpecimenChange):
    """The setup itself; what is left out stays."""

    name: Annotated[str, Text(1, 80)] = unset()
    run_name_pattern: Annotated[str, Text(1, 60)] = unset()
    motion: MotionSpec = unset()
    stops: StopList = unset()
    guards: GuardList = unset()
    keep_rules: KeepRuleList = unset()
    trigger: TriggerSpec = unset()
    batch: BatchList = unset()
    asked: AskedList = unset()


class Undone(Schema):
    action: str
