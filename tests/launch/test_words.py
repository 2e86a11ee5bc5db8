"""Names that were given up for others (docs/glossary.md) do not come back."""

import ast
from pathlib import Path

import pytest

from launch.paths import ROOT

ROOMS = ("server", "core", "rig", "launch", "tests")
GIVEN_UP = {
    "Board", "Bell", "Desk", "Scout", "Tellings", "Telling", "Told", "Show", "Keeper",
    "FillingRow", "TheRun", "AtRest", "Resting", "Beginning", "Starting", "Links", "FrameSeen",
    "FrameLinked", "FrameLost", "FrameDone", "heed", "Watch", "Unseen", "Doors", "Turns",
    "NOT_AS_HOPED", "one_state", "once_a_state", "NotTaken", "may_stay", "foresee",
    "settle_what_was_left", "Gap", "Piece", "Span", "Stretch", "BlockDigest", "digest_block",
    "Ground", "Course", "RunFacts", "Term", "hookup", "Hookup", "KindOfTest", "KINDS_OF_TEST",
    "deed", "deeds", "digest_of", "standing", "scalings_kept", "OpenRunFound", "BenchTaken",
    "not_taken", "row_place", "RowPlace", "PlacedBlock", "PlugFound", "FoundDevice", "FoundDevices",
    "place_device", "what_is_plugged", "ReadFile", "ReadIn", "read_in",
    "ResultPicture", "ShownFile", "Sought",
}  # fmt: skip
PREFIXES = ("MOST_", "LEAST_", "LONGEST_", "SHORTEST_")


def given_names(tree: ast.Module) -> list[tuple[str, int]]:
    """What a module names: classes, functions, parameters and variables, with their lines."""
    found = []
    for node in ast.walk(tree):
        match node:
            case ast.ClassDef() | ast.FunctionDef() | ast.AsyncFunctionDef():
                found.append((node.name, node.lineno))
            case ast.Name(ctx=ast.Store()):
                found.append((node.id, node.lineno))
            case ast.arg():
                found.append((node.arg, node.lineno))
            case _:
                pass
    return found


def wrong_names(text: str) -> list[str]:
    return [
        f"{line}: {name}"
        for name, line in given_names(ast.parse(text))
        if name in GIVEN_UP or name.startswith(PREFIXES)
    ]


def modules() -> list[Path]:
    files = [f for room in ROOMS for f in (ROOT / room).rglob("*.py")]
    return [f for f in files if "migrations" not in f.parts]


def test_no_name_that_was_given_up_is_given_again():
    wrong = {str(f.relative_to(ROOT)): wrong_names(f.read_text()) for f in modules()}
    assert {file: names for file, names in wrong.items() if names} == {}


@pytest.mark.parametrize(
    "text",
    [
        "class Doors: ...",
        "def foresee(): ...",
        "MOST_ROWS = 5",
        "def f(heed): ...",
        "for hookup in []: ...",
    ],
)
def test_it_would_be_seen(text):
    assert wrong_names(text)
