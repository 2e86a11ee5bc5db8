"""A made-up prediction of the fork's static test, as a finite-element program might write it.

``python -m yoke_rig.prediction`` prints it. Time in milliseconds and without a unit, deflections
in metres although the file says millimetres, the steerer's sign the other way, one figure that is
none: what a reader of files must find.
"""

import numpy as np

from yoke_rig.fork import Fork

PEAK = 2400.0  # N
RATE = 300.0  # N/s
STEP_MS = 10
BROKEN = 1066  # the row whose second figure is none
STIFFER = 1.04  # a model is, by the joints that it leaves out


def lines() -> list[str]:
    """The file, line by line."""
    half = round(PEAK / RATE * 1000 / STEP_MS)
    force = PEAK / half * np.concatenate([np.arange(half + 1), np.arange(half - 1, -1, -1)])
    fork = Fork(friction=0.0)
    strains = {k: v / STIFFER * 1e6 for k, v in fork.strains(force).items()}
    travel = fork.bear(force) / STIFFER
    head = [
        "# fork FK-12, crown, model r4, linear",
        "# load: axle, 0 to 2,4 kN and back",
        "# strain: mean over the grid area",
        "# tension positive",
        "# written 2026-11-12",
        "t;CR_00;CR_45;CR_90;STEER;F_AX;U_AX;FLAG",
        "-;ue;ue;ue;ue;N;mm;-",
    ]
    rows = []
    for i, newtons in enumerate(force):
        figures = [strains[k][i] for k in ("R1a", "R1b", "R1c")]
        texts = [f"{v:.1f}" for v in (*figures, -strains["B1"][i])]
        texts += [f"{newtons:.0f}", f"{travel[i]:.6f}", "A" if i <= half else "B"]
        rows.append(";".join([str(i * STEP_MS), *texts]).replace(".", ","))
    broken = rows[BROKEN].split(";")
    broken[2] = "****"
    rows[BROKEN] = ";".join(broken)
    return [*head, *rows, "# end of table"]


if __name__ == "__main__":
    print("\n".join(lines()))
