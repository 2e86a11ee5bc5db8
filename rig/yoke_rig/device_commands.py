"""What the amplifiers and the load frame answer to (docs/amplifier-protocol.md)."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from yoke_rig.amplifier import (
    BRIDGES,
    CARRIERS,
    COMPLETIONS,
    EXCITATIONS,
    RANGES,
    SHUNT,
    Amplifier,
    InputSettings,
)
from yoke_rig.converter import CORNER
from yoke_rig.faults import read_faults
from yoke_rig.frame import Crosshead
from yoke_rig.scpi import CommandError, Commands, Handler, number, whole, word

Clock = Callable[[], float]
MAX_BALANCE = 0.04  # V/V, either way


def _one_of(allowed: tuple[float, ...], args: list[str]) -> float:
    value = number(args)
    if value not in allowed:
        offered = ", ".join(f"{v:g}" for v in allowed)
        raise CommandError(-222, f"Data out of range; one of {offered}")
    return value


def _bridge(args: list[str]) -> str:
    for name in BRIDGES:
        if word(args).upper() in (name, name[:4]):
            return name
    raise CommandError(-224, "Illegal parameter value")


def _probed(amp: Amplifier, number: int) -> str:
    """Six readings in each of three states, all joined by commas."""
    states = amp.probe(number)
    if not states:
        raise CommandError(-200, "Execution error; nothing is sampled yet")
    return ",".join(f"{float(value[0]):.9g}" for pins in states for value in pins)


def _balance(args: list[str]) -> float:
    value = number(args)
    if not abs(value) <= MAX_BALANCE:
        raise CommandError(-222, f"Data out of range; up to {MAX_BALANCE:g}")
    return value


def _switch(args: list[str]) -> bool:
    state = word(args).upper()
    if state not in ("ON", "OFF", "1", "0"):
        raise CommandError(-224, "Illegal parameter value")
    return state in ("ON", "1")


def _put_faults(amp: Amplifier, number: int, text: str) -> None:
    try:
        amp.pretend(number, read_faults(text))
    except ValueError as error:
        raise CommandError(-224, f"Illegal parameter value; {error}") from None


@dataclass(frozen=True)
class AtTheBench:
    """What a person does to what is plugged into an input: puts a load on it, turns it."""

    put_on: Callable[[int, float], None]
    turn: Callable[[int, float], None]


def _pretend(amp: Amplifier, person: AtTheBench, number_of_input: int, text: str) -> None:
    """Have a person do something to what is plugged in, or have the input be at fault."""
    what, _, rest = text.partition(" ")
    if what == "moved" and rest.isdigit():
        if not 1 <= int(rest) <= len(amp.inputs):
            raise CommandError(-114, "Header suffix out of range")
        amp.move(number_of_input, int(rest))
    elif what == "load":
        person.put_on(number_of_input, number([rest]))
    elif what == "turn":
        try:
            person.turn(number_of_input, number([rest]))
        except ValueError as error:
            raise CommandError(-221, f"Settings conflict; {error}") from error
    else:
        _put_faults(amp, number_of_input, text)


def input_commands(amp: Amplifier, person: AtTheBench) -> dict[str, Handler]:
    """Settings and questions with an input's number in their header."""

    def settings(suffix: int) -> InputSettings:
        if not 1 <= suffix <= len(amp.inputs):
            raise CommandError(-114, "Header suffix out of range")
        return amp.inputs[suffix - 1]

    def put(name: str, convert: Callable[[list[str]], object]) -> Handler:
        def handler(args: list[str], suffix: int) -> None:
            setattr(settings(suffix), name, convert(args))

        return handler

    def ask(name: str, form: str = "{}") -> Handler:
        return lambda args, suffix: form.format(getattr(settings(suffix), name))

    def probe(args: list[str], suffix: int) -> str:
        settings(suffix)
        return _probed(amp, suffix)

    def pretend(args: list[str], suffix: int) -> None:
        settings(suffix)
        _pretend(amp, person, suffix, ",".join(args).strip('"'))

    return {
        "INPut:PROBe?": probe,
        "TEST:FAULt": pretend,
        "TEST:FAULt?": lambda args, n: f'"{", ".join(map(str, amp.faults.get(n, ())))}"',
        "INPut:BRIDge": put("bridge", _bridge),
        "INPut:BRIDge?": ask("bridge"),
        "INPut:COMPletion": put("completion", lambda a: _one_of(COMPLETIONS, a)),
        "INPut:COMPletion?": ask("completion", "{:g}"),
        "INPut:EXCitation": put("excitation", lambda a: _one_of(EXCITATIONS, a)),
        "INPut:EXCitation?": ask("excitation", "{:g}"),
        "INPut:RANGe": put("range_mv_v", lambda a: _one_of(RANGES, a)),
        "INPut:RANGe?": ask("range_mv_v", "{:g}"),
        "INPut:CARRier": put("carrier", lambda a: _one_of(CARRIERS, a)),
        "INPut:CARRier?": ask("carrier", "{:g}"),
        "INPut:BALance": put("balance", _balance),
        "INPut:BALance?": ask("balance", "{:.9g}"),
        "INPut:SHUNt": put("shunt_on", _switch),
        "INPut:SHUNt?": lambda args, n: str(int(settings(n).shunt_on)),
        "INPut:SHUNt:RESistance?": lambda args, n: f"{SHUNT:g}",
    }


def plug_commands(amp: Amplifier) -> dict[str, Handler]:
    """The memories of plugs, and the hand that exchanges two of them."""

    def known(number: int) -> int:
        if not 1 <= number <= len(amp.inputs):
            raise CommandError(-114, "Header suffix out of range")
        return number

    def write_sheet(args: list[str], suffix: int) -> None:
        try:
            memory = bytes.fromhex(word(args))
        except ValueError:
            raise CommandError(-104, "Data type error; hexadecimal is expected") from None
        if not amp.write_sheet(known(suffix), memory):
            raise CommandError(-222, "Data out of range; the plug has no memory of that size")

    return {
        "INPut:SHEet?": lambda args, n: amp.sheets[known(n) - 1].hex() or "none",
        "INPut:SHEet": write_sheet,
        "TEST:MOVE": lambda args, n: amp.move(known(whole(args)), known(whole(args, 1))),
    }


@dataclass(frozen=True)
class Hooks:
    """What the commands of an amplifier reach beyond it; all given by the server."""

    resend: Callable[[int, int], None]
    restart: Callable[[], None]
    reset: Callable[[int], None]
    data_port: Callable[[], int]
    person: AtTheBench


def amplifier_commands(amp: Amplifier, hooks: Hooks, clock: Clock) -> Commands:
    """Commands of an amplifier's control port, or of a module's, which sets no bridges."""

    def status(args: list[str], suffix: int) -> str:
        oldest = amp.memory[0].sequence if amp.memory else amp.sequence
        return f"{amp.acquisition},{int(amp.running)},{oldest},{amp.sequence},{amp.rate:g}"

    def withhold(args: list[str], suffix: int) -> None:
        amp.drop_next = whole(args)

    def rate(args: list[str], suffix: int) -> None:
        try:
            amp.set_rate(number(args))
        except ValueError as error:
            raise CommandError(-222, f"Data out of range; {error}") from None

    def battery(args: list[str], suffix: int) -> str:
        if amp.battery is None:
            raise CommandError(-221, "Settings conflict; it runs on mains")
        return f"{amp.battery:g}"

    def run_on_battery(args: list[str], suffix: int) -> None:
        amp.battery = number(args)

    def step(args: list[str], suffix: int) -> None:
        amp.step_clock(number(args))

    return Commands(
        f"Yoke Rig,{amp.model},{amp.serial},3.3",
        {
            **(input_commands(amp, hooks.person) | plug_commands(amp) if amp.sets_bridges else {}),
            "*RST": lambda args, n: amp.reset(),
            "SYSTem:TEMPerature?": lambda args, n: "34.2",
            "SYSTem:POWer?": lambda args, n: "MAINS" if amp.battery is None else "BATTERY",
            "SYSTem:BATTery?": battery,
            "SYSTem:TIME?": lambda args, n: str(amp.clock_ns()),
            "INPut:COUNt?": lambda args, n: str(len(amp.inputs)),
            "SAMPle:RATE": rate,
            "SAMPle:RATE?": lambda args, n: f"{amp.rate:g}",
            "SAMPle:FILTer?": lambda args, n: f"{CORNER * amp.rate:g}",
            "ACQuire:STARt": lambda args, n: setattr(amp, "running", True),
            "ACQuire:STOP": lambda args, n: setattr(amp, "running", False),
            "ACQuire:STATus?": status,
            "DATA:PORT?": lambda args, n: str(hooks.data_port()),
            "DATA:AGAin": lambda args, n: hooks.resend(whole(args), whole(args, 1)),
            "TEST:WITHhold": withhold,
            "TEST:BATTery": run_on_battery,
            "TEST:STEP": step,
            "TEST:RESTart": lambda args, n: hooks.restart(),
            "TEST:RESet": lambda args, n: hooks.reset(whole(args)),
        },
        clock,
    )


def _motion(crosshead: Crosshead, begin: Callable[..., None], count: int) -> Handler:
    """A command of so many numbers, which the drive may refuse, and a name for the motion."""

    def handler(args: list[str], suffix: int) -> None:
        try:
            begin(*(number(args, i) for i in range(count)))
        except ValueError as error:
            raise CommandError(-222, f"Data out of range; {error}") from None
        crosshead.name(word(args, count)[:60] if len(args) > count else "")

    return handler


def _refusing(begin: Callable[..., None]) -> Handler:
    """A command of numbers that the drive may refuse, and that begins no motion."""

    def handler(args: list[str], suffix: int) -> None:
        try:
            begin(*(number(args, i) for i in range(len(args))))
        except (ValueError, TypeError) as error:
            raise CommandError(-222, f"Data out of range; {error}") from None

    return handler


def _table_commands(crosshead: Crosshead) -> dict[str, Handler]:
    """Forces that are played from a table, the size of a swing, and outputs."""

    def switch(args: list[str], suffix: int) -> None:
        _motion(crosshead, crosshead.switch, 2)(args, suffix)
        crosshead.cause = "arrived"

    return {
        "MOTion:TRIM": _refusing(crosshead.trim),
        "TEST:GAIN": lambda args, n: setattr(crosshead, "gain", number(args)),
        "MOTion:TABLe:CLEar": lambda args, n: crosshead.table.clear(),
        "MOTion:TABLe": _refusing(lambda *forces: crosshead.take(list(forces))),
        "MOTion:TABLe:COUNt?": lambda args, n: str(len(crosshead.table)),
        "MOTion:PLAY": _motion(crosshead, crosshead.play, 3),
        "MOTion:OUTPut": switch,
        "MOTion:OUTPut?": lambda args, n: ",".join(str(int(on)) for on in crosshead.outputs),
    }


def frame_commands(crosshead: Crosshead, identity: str, clock: Clock) -> Commands:
    """Commands of a load frame or actuator; lengths in mm, speeds in mm/s, forces in N."""

    def limit_travel(args: list[str], suffix: int) -> None:
        low, high = number(args) * 1e-3, number(args, 1) * 1e-3
        if not low < high:
            raise CommandError(-222, "Data out of range; lower limit not below upper")
        crosshead.lowest, crosshead.highest = low, high

    def limit_force(args: list[str], suffix: int) -> None:
        crosshead.force_limit = number(args)

    def heartbeat(args: list[str], suffix: int) -> None:
        seconds = number(args)
        if not 0.1 <= seconds <= 10:
            raise CommandError(-222, "Data out of range; 0.1 to 10 s")
        crosshead.heartbeat = seconds

    motion = partial(_motion, crosshead)
    return Commands(
        f"Yoke Rig,{identity}",
        {
            "*RST": lambda args, n: crosshead.stop("reset"),
            "MOTion:RAMP": motion(lambda mm_s, mm: crosshead.ramp(mm_s * 1e-3, mm * 1e-3), 2),
            "MOTion:FORCe": motion(crosshead.load, 2),
            "MOTion:SINE": motion(crosshead.swing, 3),
            "MOTion:LOAD": motion(crosshead.load_to, 2),
            "MOTion:WAVE": lambda args, n: motion(
                lambda *numbers: crosshead.wave(word(args, 0).upper(), *numbers), 4
            )(args[1:], n),
            **_table_commands(crosshead),
            "MOTion:HOLD": lambda args, n: crosshead.stop(),
            "MOTion:STOP": lambda args, n: crosshead.stop(),
            "MOTion:RETurn": motion(crosshead.go_home, 0),
            "MOTion:ID?": lambda args, n: crosshead.motion_id or "none",
            "MOTion:STATe?": lambda args, n: (
                f"{crosshead.motion.value},{crosshead.position * 1e3:.4f}"
            ),
            "MOTion:CAUSe?": lambda args, n: crosshead.cause or "none",
            "MOTion:HEARtbeat": heartbeat,
            "MOTion:HEARtbeat?": lambda args, n: f"{crosshead.heartbeat:g}",
            "LIMit:TRAVel": limit_travel,
            "LIMit:TRAVel?": lambda args, n: (
                f"{crosshead.lowest * 1e3:g},{crosshead.highest * 1e3:g}"
            ),
            "LIMit:FORCe": limit_force,
            "LIMit:FORCe?": lambda args, n: f"{crosshead.force_limit:g}",
        },
        clock,
        on_released=lambda: crosshead.stop("its host left"),
        everybodys=("MOTion:STOP", "MOTion:HOLD"),
    )
