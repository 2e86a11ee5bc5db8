from datetime import datetime
from typing import Annotated

from yoke_server.common.http.fields import Answer, Body, between
from yoke_server.setups.document import PolarityName


class SignTestOut(Answer):
    """A test of the sign; ``old``: the wiring or the sign was changed since."""

    at: datetime
    old: bool
    passed: bool
    moved: float


class SignOut(Answer):
    """What counts positive, what is done to a part for it or against; which cores turn it.

    ``swap`` is empty where no exchange of cores turns it. A change counts when it exceeds
    ``clear`` deviations of the reading and the ``smallest``, SI of the quantity.
    """

    counts: str
    positive: str
    negative: str
    swap: str
    clear: float
    smallest: float
    test: SignTestOut | None


class SignTested(Body):
    """What somebody did to the part, and by how much the reading went, SI of the quantity.

    ``polarity`` is how the channel counted meanwhile, ``deviation`` what its reading varied by.
    """

    positive: bool
    polarity: PolarityName
    moved: Annotated[float, between(-1e12, 1e12)]
    deviation: Annotated[float, between(0, 1e12)]
