"""What the amplifier and the load frame answer to (docs/amplifier-protocol.md)."""

from collections.abc import Callable

from yoke_rig.amplifier import (
    BRIDGES,
    COMPLETIONS,
    EXCITATIONS,
    RANGES,
    SHUNT,
    Amplifier,
    InputSettings,
)
from yoke_rig.converter import CORNER
from yoke_rig.frame import Crosshead
from yoke_rig.scpi import CommandError, Commands, Handler


def _one_of(allowed: tuple[float, ...], text: str) -> float:
    value = float(text)
    if value not in allowed:
        raise CommandError(-222, f"Data out of range; one of {allowed}")
    return value


def _bridge(text: str) -> str:
    for name in BRIDGES:
        if text.upper() in (name, name[:4]):
            return name
    raise CommandError(-224, "Illegal parameter value")


def input_commands(amp: Amplifier) -> dict[str, Handler]:
    """Settings and questions with an input's number in their header."""

    def settings(number: int) -> InputSettings:
        if not 1 <= number <= len(amp.inputs):
            raise CommandError(-114, "Header suffix out of range")
        return amp.inputs[number - 1]

    def put(name: str, convert: Callable[[str], object]) -> Handler:
        def handler(args: list[str], number: int) -> None:
            setattr(settings(number), name, convert(args[0]))

        return handler

    def ask(name: str) -> Handler:
        return lambda args, number: str(getattr(settings(number), name))

    return {
        "INPut:BRIDge": put("bridge", _bridge),
        "INPut:BRIDge?": ask("bridge"),
        "INPut:COMPletion": put("completion", lambda t: _one_of(COMPLETIONS, t)),
        "INPut:COMPletion?": ask("completion"),
        "INPut:EXCitation": put("excitation", lambda t: _one_of(EXCITATIONS, t)),
        "INPut:EXCitation?": ask("excitation"),
        "INPut:RANGe": put("range_mv_v", lambda t: _one_of(RANGES, t)),
        "INPut:RANGe?": ask("range_mv_v"),
        "INPut:SHUNt": put("shunt_on", lambda t: t.upper() in ("ON", "1")),
        "INPut:SHUNt?": lambda args, n: str(int(settings(n).shunt_on)),
        "INPut:SHUNt:RESistance?": lambda args, n: f"{SHUNT:g}",
    }


def amplifier_commands(amp: Amplifier, resend: Callable[[int, int], None]) -> Commands:
    """Commands of the control port; ``resend`` puts old blocks on the data port."""

    def status(args: list[str], number: int) -> str:
        oldest = amp.memory[0].sequence if amp.memory else amp.sequence
        return f"{amp.acquisition},{int(amp.running)},{oldest},{amp.sequence},{amp.rate:g}"

    def withhold(args: list[str], number: int) -> None:
        amp.drop_next = int(args[0])

    return Commands(
        f"Yoke Rig,BA8 bridge amplifier,{amp.serial},3.2",
        {
            **input_commands(amp),
            "*RST": lambda args, n: amp.reset(),
            "SYSTem:TEMPerature?": lambda args, n: "34.2",
            "INPut:COUNt?": lambda args, n: str(len(amp.inputs)),
            "SAMPle:RATE": lambda args, n: amp.set_rate(float(args[0])),
            "SAMPle:RATE?": lambda args, n: f"{amp.rate:g}",
            "SAMPle:FILTer?": lambda args, n: f"{CORNER * amp.rate:g}",
            "ACQuire:STARt": lambda args, n: setattr(amp, "running", True),
            "ACQuire:STOP": lambda args, n: setattr(amp, "running", False),
            "ACQuire:STATus?": status,
            "DATA:AGAin": lambda args, n: resend(int(args[0]), int(args[1])),
            "TEST:WITHhold": withhold,
        },
    )


def frame_commands(crosshead: Crosshead) -> Commands:
    """Commands of the load frame; lengths in mm, speeds in mm/s, forces in N."""

    def ramp(args: list[str], number: int) -> None:
        crosshead.ramp(float(args[0]) * 1e-3, float(args[1]) * 1e-3)

    def limit_travel(args: list[str], number: int) -> None:
        low, high = float(args[0]) * 1e-3, float(args[1]) * 1e-3
        if not low < high:
            raise CommandError(-222, "Data out of range; lower limit not below upper")
        crosshead.lowest, crosshead.highest = low, high

    def limit_force(args: list[str], number: int) -> None:
        crosshead.force_limit = float(args[0])

    return Commands(
        "Yoke Rig,LF25 load frame,1187,1.4",
        {
            "*RST": lambda args, n: crosshead.stop(),
            "MOTion:RAMP": ramp,
            "MOTion:HOLD": lambda args, n: crosshead.stop(),
            "MOTion:STOP": lambda args, n: crosshead.stop(),
            "MOTion:RETurn": lambda args, n: crosshead.go_home(),
            "MOTion:STATe?": lambda args, n: (
                f"{crosshead.motion.value},{crosshead.position * 1e3:.4f}"
            ),
            "LIMit:TRAVel": limit_travel,
            "LIMit:TRAVel?": lambda args, n: (
                f"{crosshead.lowest * 1e3:g},{crosshead.highest * 1e3:g}"
            ),
            "LIMit:FORCe": limit_force,
            "LIMit:FORCe?": lambda args, n: f"{crosshead.force_limit:g}",
        },
    )
