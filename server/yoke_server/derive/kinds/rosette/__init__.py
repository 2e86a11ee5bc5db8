"""Principal strains and stresses from three grids."""

from yoke_server.derive.kinds.rosette.compute import RosetteKind

RESULT = RosetteKind()
