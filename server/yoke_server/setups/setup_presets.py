"""The kinds of test that a new setup can begin as; from there on all is free to change."""

from dataclasses import dataclass, field

from yoke_server.kinds.motions.force_ramp import ForceRamp
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.motions.ramp import PositionRamp
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.specimens.flat import FlatPiece
from yoke_server.kinds.specimens.part import PartPiece
from yoke_server.kinds.stops.force_drop import ForceDrop
from yoke_server.kinds.stops.motion_end import MotionEnd


@dataclass(frozen=True, slots=True)
class SetupPreset:
    """What a setup of this kind begins with."""

    name: str
    specimen: str
    piece: Spec
    motion: Spec
    stops: list[Spec] = field(default_factory=list)


SETUP_PRESETS = {
    "tension": SetupPreset(
        "Tension of a coupon",
        "C1",
        FlatPiece(width_m=12.5e-3, thickness_m=3e-3, gauge_length_m=50e-3),
        PositionRamp(speed_m_s=1.85e-4, travel_limit_m=12e-3),
        [ForceDrop(share=0.4)],
    ),
    "component": SetupPreset(
        "Component with actuator",
        "Part 1",
        PartPiece(),
        ForceRamp(peak_n=1000.0, rate_n_s=200.0),
        [MotionEnd()],
    ),
    "measuring": SetupPreset("Measuring only", "Part 1", PartPiece(), NoMotion()),
}
