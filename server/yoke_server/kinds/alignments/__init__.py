"""Which instant of each run is laid over the others'; a new kind is one line in `ALIGNMENTS`."""

from typing import TYPE_CHECKING

from yoke_server.kinds.alignments.base import Alignment
from yoke_server.kinds.alignments.marker import AtMarker
from yoke_server.kinds.alignments.peak import AtPeak
from yoke_server.kinds.alignments.start import AtStart
from yoke_server.kinds.alignments.threshold import AtThreshold
from yoke_server.kinds.union import union_of

ALIGNMENTS: tuple[type[Alignment], ...] = (AtStart, AtThreshold, AtPeak, AtMarker)

if TYPE_CHECKING:
    AlignmentSpec = Alignment
else:
    AlignmentSpec = union_of(ALIGNMENTS)
