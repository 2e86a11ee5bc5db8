"""Scalings that fit several kinds of input; one that fits a single kind stands in its folder."""

from yoke_server.kinds.scalings.base import Scaling
from yoke_server.kinds.scalings.polynomial import PolynomialScaling
from yoke_server.kinds.scalings.rated_output import RatedOutputScaling
from yoke_server.kinds.scalings.stated_output import StatedOutputScaling
from yoke_server.kinds.scalings.table import TableScaling
from yoke_server.kinds.scalings.two_points import TwoPointScaling

# Through points that somebody measured: these fit every input.
BY_POINTS: tuple[type[Scaling], ...] = (TwoPointScaling, TableScaling, PolynomialScaling)
SCALINGS: tuple[type[Scaling], ...] = (RatedOutputScaling, StatedOutputScaling, *BY_POINTS)
