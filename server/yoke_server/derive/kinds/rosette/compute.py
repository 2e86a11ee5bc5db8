"""A rosette: principal strains and stresses over a run, and at its highest load."""

import math
from typing import TYPE_CHECKING, Any, ClassVar

from yoke_core.rosette.state import RosetteState

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.derive.inputs import (
    channel_of,
    clipped_note,
    in_pieces,
    setup_of,
    times_with,
)
from yoke_server.derive.kinds.base import Column, Columns, Computed, Offer, ResultKind, Value
from yoke_server.derive.kinds.rosette.spec import RosetteDetails, RosetteParameters
from yoke_server.kinds.spec import Spec
from yoke_server.record.models import Run
from yoke_server.setups.document import FrozenSetup, rosettes_of

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray
    from yoke_core.rosette.state import Isotropic, Rosette

    Array = NDArray[np.float64]

INSTANTS = 2000  # at most so many are kept for the picture
METHOD = "plane stress, isotropic"


class RosetteKind(ResultKind):
    """Principal strains and stresses from three grids."""

    engine: ClassVar[int] = 2  # 1 gave the shear stress in the plane, and angles from 0
    parameters: ClassVar[type[Spec]] = RosetteParameters
    details: ClassVar[type[Spec]] = RosetteDetails

    def offers(self, setup: FrozenSetup) -> list[Offer]:
        """Each rosette that has all its grids wired; the first is suggested."""
        found: list[Offer] = []
        for name, grids in rosettes_of(setup.channels).items():
            degrees = [round(math.degrees(c.grid.angle), 6) for c in grids if c.grid]
            keys = [c.key for c in grids]
            parameters = RosetteParameters(name=name, grids=keys, angles_deg=degrees)
            found.append(Offer(f"Rosette {name}", parameters, suggested=not found))
        return found

    def subject(self, parameters: Any, setup: FrozenSetup) -> str:
        return str(parameters.name)

    def channels(self, parameters: Any, setup: FrozenSetup) -> list[str]:
        return list(parameters.grids)

    def check(self, parameters: Any, setup: FrozenSetup) -> None:
        _core(parameters)
        if len(set(parameters.grids)) < 3:
            raise Problem(
                422,
                "One channel stands for two grids.",
                field="grids",
                hint="Choose three different channels.",
            )
        for key in parameters.grids:
            channel = channel_of(setup, key)
            if channel.quantity != "strain":
                raise Problem(
                    422,
                    f"{channel.name} measures no strain.",
                    field="grids",
                    hint="Choose the channels of the three grids.",
                )

    def compute(self, run: Run, parameters: Any) -> Computed:
        import numpy as np
        from yoke_core.rosette.state import rosette_state

        self.check(parameters, setup_of(run))
        rosette, material = _core(parameters)
        kept, highest, clipped, samples = _look_through(run, parameters, rosette, material)
        setup, times = setup_of(run), times_with(run, parameters.grids[0])
        a, b, c = (float(v) for v in highest[1:])
        state = rosette_state(rosette, material, (a, b, c))
        at = times.seconds_of(highest[:1])[0]
        details = RosetteDetails(
            grids=[channel_of(setup, key).name for key in parameters.grids],
            time_s=float(at),
            highest=state,
        )
        notes = [
            n
            for key, count in zip(parameters.grids, clipped, strict=True)
            if (n := clipped_note(channel_of(setup, key), count, samples))
        ]
        columns = _columns(rosette, material, np.array(kept).T, times)
        return Computed(_values(state, float(at)), details, columns, notes)

    def figure(self, columns: Columns, details: Any, parameters: Any) -> str:
        from yoke_server.derive.kinds.rosette.figure import figure

        return figure(columns, details, parameters)


def _core(parameters: RosetteParameters) -> "tuple[Rosette, Isotropic]":
    import numpy as np
    from yoke_core.rosette.state import Isotropic, Rosette

    angles = tuple(float(a) for a in np.deg2rad(parameters.angles_deg))
    material = Isotropic(parameters.modulus_pa, parameters.poisson_ratio)
    return Rosette(angles, parameters.transverse), material


def _look_through(run: Run, parameters: Any, rosette: Any, material: Any) -> Any:
    """Evenly spaced instants, that of the highest von Mises stress, and what clipped.

    Instants are (sample, a, b, c); memory does not grow with the run.
    """
    import numpy as np
    from yoke_core.rosette.series import principal_strains
    from yoke_core.rosette.state import principal_stresses, von_mises

    stream_samples = times_with(run, parameters.grids[0]).samples
    step = max(1, -(-stream_samples // INSTANTS))
    kept: list[Any] = []
    highest, most = None, -1.0
    clipped, samples = np.zeros(3, dtype=int), 0
    for first, grids in in_pieces(run, parameters.grids):
        found = principal_strains(rosette, *grids.astype(np.float32))
        load = von_mises(*principal_stresses(material, found.first, found.second))
        load = np.where(np.isfinite(load), load, -1.0)
        place = int(np.argmax(load))
        if load[place] > most:
            most = float(load[place])
            highest = np.array([first + place, *grids[:, place]])
        begin = -first % step
        for i in range(begin, grids.shape[1], step):
            kept.append([first + i, *grids[:, i]])
        clipped += np.isinf(grids).sum(axis=1)
        samples += grids.shape[1]
    if highest is None:
        raise Problem(
            409,
            "No instant has a number of all three grids.",
            code=ProblemType.NO_RESULT,
            hint="Check the grids: one may be broken, or clipped throughout.",
        )
    return kept, highest, clipped.tolist(), samples


def _columns(rosette: Any, material: Any, kept: "Array", times: Any) -> list[Column]:
    import numpy as np
    from yoke_core.rosette.series import principal_strains
    from yoke_core.rosette.state import principal_stresses, von_mises

    strains = principal_strains(rosette, *kept[1:].astype(np.float32))
    s1, s2 = principal_stresses(material, strains.first, strains.second)
    return [
        Column("time", "s", times.seconds_of(kept[0])),
        *(Column(f"grid {x}", "µm/m", kept[i + 1]) for i, x in enumerate("abc")),
        Column("strain_1", "µm/m", strains.first),
        Column("strain_2", "µm/m", strains.second),
        Column("angle", "°", strains.angle),
        Column("stress_1", "MPa", s1),
        Column("stress_2", "MPa", s2),
        Column("von_mises", "MPa", von_mises(s1, s2)),
    ]


def _values(at: RosetteState, time_s: float) -> list[Value]:
    when = f"at {time_s:.2f} s, the highest von Mises stress"
    return [
        Value("σv", "von Mises stress", at.von_mises, "MPa", 1, METHOD, note=when),
        Value("ε1", "First principal strain", at.strain_1, "µm/m", 1, METHOD, note=when),
        Value("ε2", "Second principal strain", at.strain_2, "µm/m", 1, METHOD, note=when),
        Value(
            "γ", "Largest shear strain in the plane", at.shear_strain, "µm/m", 1, METHOD, note=when
        ),
        Value("σ1", "First principal stress", at.stress_1, "MPa", 1, METHOD, note=when),
        Value("σ2", "Second principal stress", at.stress_2, "MPa", 1, METHOD, note=when),
        Value("τ", "Largest shear stress", at.shear_stress, "MPa", 1, METHOD, note=when),
        Value(
            "φ",
            "Angle from grid a",
            at.angle,
            "°",
            1,
            METHOD,
            note=when if at.angle is not None else "both principal strains are the same",
        ),
        Value("σ2/σ1", "Biaxiality", at.biaxiality, "1", 2, METHOD, note=when),
    ]
