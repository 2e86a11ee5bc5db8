"""A copy of the server in which each sort of kind has a made-up one more: a folder and a line."""

import shutil
from pathlib import Path

ROOT = Path(__file__).parents[2]
FILES = Path(__file__).parent / "files"
# The list of each sort: its file, what stands there, and what stands there with one more.
LINES = {
    "kinds/inputs/__init__.py": [
        ("    bridge,\n", "    bridge,\n    hall_clamp,\n"),
        ("    digital.INPUT,\n", "    digital.INPUT,\n    hall_clamp.INPUT,\n"),
    ],
    "kinds/motions/__init__.py": [
        (
            "import NoMotion\n",
            "import NoMotion\nfrom yoke_server.kinds.motions.nudge import Nudge\n",
        ),
        ("Programme)", "Programme, Nudge)"),
    ],
    "kinds/legs/__init__.py": [
        (
            "from yoke_server.kinds.legs.wait",
            "from yoke_server.kinds.legs.breath import BreathLeg\nfrom yoke_server.kinds.legs.wait",
        ),
        ("    WaitLeg,\n)", "    WaitLeg,\n    BreathLeg,\n)"),
    ],
    "kinds/guards/__init__.py": [
        (
            "from yoke_server.kinds.guards.outside",
            "from yoke_server.kinds.guards.curfew import Curfew\n"
            "from yoke_server.kinds.guards.outside",
        ),
        ("TooFast, NoSignal)", "TooFast, NoSignal, Curfew)"),
    ],
    "kinds/keep_rules/__init__.py": [
        (
            "from yoke_server.kinds.keep_rules.everything",
            "from yoke_server.kinds.keep_rules.every_other import EveryOther\n"
            "from yoke_server.kinds.keep_rules.everything",
        ),
        ("TurningPoints, WhenChanged)", "TurningPoints, WhenChanged, EveryOther)"),
    ],
    "kinds/triggers/__init__.py": [
        (
            "from yoke_server.kinds.triggers.level import Level\n",
            "from yoke_server.kinds.triggers.level import Level\n"
            "from yoke_server.kinds.triggers.tenth_block import TenthBlock\n",
        ),
        ("Level, AtTime)", "Level, AtTime, TenthBlock)"),
    ],
    "kinds/stops/__init__.py": [
        (
            "from yoke_server.kinds.stops.force_drop",
            "from yoke_server.kinds.stops.enough_samples import EnoughSamples\n"
            "from yoke_server.kinds.stops.force_drop",
        ),
        ("MotionEnd, Limit)", "MotionEnd, Limit, EnoughSamples)"),
    ],
    "kinds/loads/__init__.py": [
        (
            "from yoke_server.kinds.loads.known",
            "from yoke_server.kinds.loads.buckets import Buckets\n"
            "from yoke_server.kinds.loads.known",
        ),
        ("ReferenceChannel, KnownValues)", "ReferenceChannel, KnownValues, Buckets)"),
    ],
    "kinds/steps/__init__.py": [
        (
            "from yoke_server.kinds.steps.span",
            "from yoke_server.kinds.steps.glasses import Glasses\n"
            "from yoke_server.kinds.steps.span",
        ),
        ("    ShuntSpan,\n", "    ShuntSpan,\n    Glasses,\n"),
    ],
    "kinds/specimens/__init__.py": [
        (
            "from yoke_server.kinds.specimens.round_bar",
            "from yoke_server.kinds.specimens.ring import RingPiece\n"
            "from yoke_server.kinds.specimens.round_bar",
        ),
        ("AreaPiece, PartPiece)", "AreaPiece, PartPiece, RingPiece)"),
    ],
    "derive/kinds/__init__.py": [
        (
            "import cycles, rosette, spectrum, statistics, tension",
            "import cycles, rosette, spectrum, spread, statistics, tension",
        ),
        ("    spectrum.RESULT,\n)", "    spectrum.RESULT,\n    spread.RESULT,\n)"),
    ],
    "report/blocks/__init__.py": [
        (
            "from yoke_server.report.blocks.time_plot import TimePlot\n",
            "from yoke_server.report.blocks.time_plot import TimePlot\n"
            "from yoke_server.report.blocks.weather import Weather\n",
        ),
        ("    RawData,\n", "    RawData,\n    Weather,\n"),
    ],
    "exchange/formats/__init__.py": [
        (
            "from yoke_server.exchange.formats.csv import Csv\n",
            "from yoke_server.exchange.formats.counted import Counted\n"
            "from yoke_server.exchange.formats.csv import Csv\n",
        ),
        ("(Csv(), Parquet())", "(Csv(), Parquet(), Counted())"),
    ],
}


def copy_with_made_up_kinds(folder: Path) -> Path:
    """Copy the server into a folder and put the made-up kinds into it; gives where it is.

    Raises ValueError where a list does not stand where it should.
    """
    server = folder / "server"
    shutil.copytree(ROOT / "server", server, ignore=shutil.ignore_patterns("__pycache__"))
    package = server / "yoke_server"
    shutil.copytree(FILES, package, dirs_exist_ok=True)
    for name, changes in LINES.items():
        text = (package / name).read_text()
        for old, new in changes:
            if text.count(old) != 1:
                raise ValueError(f"{name}: “{old.strip()}” stands there {text.count(old)} times")
            text = text.replace(old, new)
        (package / name).write_text(text)
    return server
