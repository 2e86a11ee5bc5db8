"""What is tested; a new kind is one line in `SPECIMENS`."""

from typing import TYPE_CHECKING

from yoke_server.kinds.specimens.area import AreaPiece
from yoke_server.kinds.specimens.base import Specimen
from yoke_server.kinds.specimens.flat import FlatPiece
from yoke_server.kinds.specimens.part import PartPiece
from yoke_server.kinds.specimens.round_bar import RoundPiece
from yoke_server.kinds.specimens.tube import TubePiece
from yoke_server.kinds.union import union_of

SPECIMENS: tuple[type[Specimen], ...] = (FlatPiece, RoundPiece, TubePiece, AreaPiece, PartPiece)

if TYPE_CHECKING:
    SpecimenSpec = Specimen
else:
    SpecimenSpec = union_of(SPECIMENS)
