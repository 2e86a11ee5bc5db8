"""What an input is set to."""

from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common import fields
from yoke_server.wire.specs.base import Spec


class BridgeConditioning(Spec):
    """Excitation and range of a bridge input; the device offers some of them.

    ``carrier_hz``: the excitation alternates so often; 0 is direct current.
    """

    kind: Literal["bridge"] = "bridge"
    excitation_v: fields.Excitation = 5.0
    range_mv_v: fields.Range = 8.0
    carrier_hz: Annotated[float, fields.between(0, 1e5)] = 0.0


class FixedConditioning(Spec):
    """An input on which nothing can be set."""

    kind: Literal["fixed"] = "fixed"


ConditioningSpec = Annotated[BridgeConditioning | FixedConditioning, Field(discriminator="kind")]
