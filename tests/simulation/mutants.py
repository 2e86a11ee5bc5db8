"""Faults put into the recorder on purpose (`mutants.toml`): the search must find them.

A mutant is tried in a child process, so that nothing of it stays. The course that found it last
is kept in `mutants_found.json` and played first.
"""

import importlib
import importlib.util
import inspect
import json
import logging
import multiprocessing
import sys
import tomllib
import types
from collections import defaultdict
from dataclasses import dataclass
from importlib.abc import SourceLoader
from pathlib import Path
from typing import Any

ROOM = "yoke_server.record.recorder."
FILE = Path(__file__).with_name("mutants.toml")
FOUND = Path(__file__).with_name("mutants_found.json")


@dataclass(frozen=True, slots=True)
class Place:
    """``old`` stands there once, and ``new`` instead of it in the mutant."""

    module: str
    old: str
    new: str


@dataclass(frozen=True, slots=True)
class Mutant:
    name: str
    places: tuple[Place, ...]


def _read() -> list[Mutant]:
    mutants = tomllib.loads(FILE.read_text())["mutant"]
    return [Mutant(m["name"], tuple(map(_place, m["place"]))) for m in mutants]


def _place(place: dict[str, str]) -> Place:
    """Modules are named from the recorder's room on, others in full."""
    module = place["module"]
    full = module if module.startswith("yoke_") else ROOM + module
    return Place(full, place["old"], place["new"])


MUTANTS = _read()


class _Source(SourceLoader):
    """A module of another text than that of its file."""

    def __init__(self, file: str, text: str) -> None:
        self._file, self._text = file, text

    def get_filename(self, fullname: str) -> str:
        return self._file

    def get_data(self, path: str) -> bytes:
        return self._text.encode()


def apply(mutant: Mutant) -> None:
    """Put it into this process. Raises ValueError where a place is not there exactly once."""
    texts: dict[str, str] = defaultdict(str)
    for place in mutant.places:
        module = importlib.import_module(place.module)
        text = texts[place.module] or inspect.getsource(module)
        if text.count(place.old) != 1:
            raise ValueError(f"{mutant.name}: a place stands {text.count(place.old)} times")
        texts[place.module] = text.replace(place.old, place.new)
    for name, text in texts.items():
        _replace_module(sys.modules[name], text)


def _replace_module(module: types.ModuleType, text: str) -> None:
    """What was imported from it elsewhere becomes that of the new text too."""
    loader = _Source(str(module.__file__), text)
    spec = importlib.util.spec_from_loader(module.__name__, loader)
    assert spec is not None
    fresh = importlib.util.module_from_spec(spec)
    sys.modules[module.__name__] = fresh  # dataclasses look their module up
    loader.exec_module(fresh)
    sys.modules[module.__name__] = module
    for name, new in vars(fresh).items():
        old = vars(module).get(name)
        if isinstance(old, type) and old.__module__ == module.__name__:
            _graft(old, new)
        elif old is not new and not name.startswith("__") and not isinstance(old, type):
            _replace(name, old, new)


def _graft(old: type, new: type) -> None:
    """The methods of a class as they stand now."""
    for name, member in vars(new).items():
        if isinstance(member, types.FunctionType | property | classmethod | staticmethod):
            setattr(old, name, member)


def _replace(name: str, old: Any, new: Any) -> None:
    """A function or constant, wherever it was imported."""
    for module in list(sys.modules.values()):
        if vars(module).get(name) is old and getattr(module, "__name__", "").startswith("yoke_"):
            setattr(module, name, new)


def hunted(mutant: Mutant, seeds: list[int]) -> tuple[int, str] | None:
    """The first of these courses that breaks a rule with the mutant, and why; in a child.

    Raises ValueError where the mutant cannot be put in.
    """
    context = multiprocessing.get_context("fork")
    ours, theirs = context.Pipe(duplex=False)
    child = context.Process(target=_hunt, args=(mutant, seeds, theirs))
    child.start()
    theirs.close()
    try:
        return ours.recv()
    except EOFError:
        raise ValueError(f"{mutant.name}: the hunt itself failed") from None
    finally:
        child.join()


def _hunt(mutant: Mutant, seeds: list[int], answer: Any) -> None:
    from tests.simulation.schedules import drawn

    logging.disable(logging.CRITICAL)
    apply(mutant)
    for seed in seeds:
        if why := drawn(seed)[0]:
            answer.send((seed, why))
            return
    answer.send(None)


def found_before() -> dict[str, int]:
    """By mutant, the course that found it last."""
    return json.loads(FOUND.read_text()) if FOUND.exists() else {}


def keep_found(found: dict[str, int]) -> None:
    FOUND.write_text(json.dumps(found, indent=1, sort_keys=True) + "\n")


def seeds_for(mutant: Mutant, tries: int) -> list[int]:
    """The one that found it last comes first."""
    last = found_before().get(mutant.name)
    return [*([] if last is None else [last]), *range(tries)]
