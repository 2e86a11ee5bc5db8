"""What the core's docstrings say: their examples run, each public function says what it takes."""

import ast
import doctest
import importlib
import pkgutil
from pathlib import Path

import pytest
import yoke_core

MODULES = [
    m.name
    for m in pkgutil.walk_packages(yoke_core.__path__, "yoke_core.")
    if not m.name.endswith(".warm")
]
# Rooms whose functions belong to each other rather than to whoever looks for a formula.
INNER = (
    "datasheet",
    "signals/kernels",
    "wiring/causes",
    "wiring/diagnose",
    "wiring/findings",
    "wiring/network",
)
FOLDER = Path(yoke_core.__path__[0])


@pytest.mark.parametrize("module", MODULES)
def test_examples_run(module):
    found = doctest.testmod(importlib.import_module(module))
    assert found.failed == 0


def public_functions():
    for file in sorted(FOLDER.rglob("*.py")):
        place = str(file.relative_to(FOLDER))
        if place == "warm.py" or place.startswith(INNER):
            continue
        for node in ast.parse(file.read_text()).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                yield pytest.param(node, id=f"{place}:{node.name}")


@pytest.mark.parametrize("function", list(public_functions()))
def test_a_public_function_says_what_it_takes_and_gives(function):
    doc = ast.get_docstring(function) or ""
    sections = [
        a for a, b in zip(doc.split("\n"), doc.split("\n")[1:], strict=False) if set(b) == {"-"}
    ]
    order = ["Parameters", "Returns", "Raises", "Attributes", "Notes", "Examples"]
    assert sections == sorted(sections, key=order.index)
    assert {"Parameters", "Returns"} <= set(sections)
    described = doc.split("Parameters\n", 1)[1].split("\nReturns\n")[0]
    named = {n.strip() for line in described.split("\n") if " : " in line and line[:1] != " "
             for n in line.split(" : ")[0].split(",")}  # fmt: skip
    assert {a.arg for a in function.args.args} <= named
