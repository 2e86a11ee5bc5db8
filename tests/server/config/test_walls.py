"""Walls between the applications that the linter of imports cannot see."""

import ast
import re
from pathlib import Path

from tests.processes import ROOT

SERVER = ROOT / "server" / "yoke_server"
APPS = {p.name for p in SERVER.iterdir() if (p / "__init__.py").exists()}
# What anybody may import of an application; what composes pages takes their parts too.
OPEN = {"models", "services", "queries", "document"}
COMPOSING = {"api", "config", "demo"}
# What else an application offers to others.
OFFERED = {
    "calibrate": {"calibrations", "reading_terms", "uncertainty"},
    "bench": {"drivers", "hooks", "orders", "statements", "stops", "waiting"},
    "derive": {"computing", "figures", "inputs", "kinds"},
    "record": {
        "channel_of_run", "envelopes", "guarding", "hooks", "plot_data", "readings",
        "runs", "samples", "seal", "store", "streams",
    },
    "sensors": {"cores", "record", "sheets"},
    "setups": {
        "formulas", "readable", "signals", "watched",
        "conditioning", "freezing", "naming", "revisions", "scalings", "schemas", "setup_presets",
        "undoing", "projects",
    },
    "wire": {"check", "orders"},
}  # fmt: skip
EVERYBODYS = {"accounts", "common", "kinds", "ledger", "live"}
FOUNDATIONS = EVERYBODYS | COMPOSING


def sources():
    return [p for p in SERVER.rglob("*.py") if "migrations" not in p.parts]


def imports_of(file: Path):
    for node in ast.walk(ast.parse(file.read_text())):
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("yoke_server."):
            parts = (node.module or "").split(".")[1:]
            for alias in node.names:
                yield (*parts, alias.name)


def test_from_outside_only_what_an_application_offers_is_imported():
    wrong = []
    for file in sources():
        own = file.relative_to(SERVER).parts[0]
        for app, *rest in imports_of(file):
            if app in (own, *FOUNDATIONS) or own in COMPOSING:
                continue
            if not rest or rest[0] not in OPEN | OFFERED.get(app, set()):
                wrong.append(f"{file.relative_to(SERVER)}: {app}.{'.'.join(rest)}")
    assert not wrong


TABLE = re.compile(rf"\b(?:FROM|JOIN|INTO|UPDATE)\s+({'|'.join(sorted(APPS))})_[a-z]+\b")


def test_no_statement_works_on_another_applications_tables():
    wrong = []
    for file in sources():
        own = file.relative_to(SERVER).parts[0]
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Constant) and isinstance(node.value, str):
                tables = {m[1] for m in TABLE.finditer(node.value)}
                wrong += [f"{file.relative_to(SERVER)}: {node.value}"] if tables - {own} else []
    assert not wrong


def test_no_foreign_key_points_upwards_by_a_string():
    named = re.compile(r"(ForeignKey|OneToOneField|ManyToManyField)\(\s*[\"'](?!self\b)")
    assert not [str(f) for f in sources() if f.name == "models.py" and named.search(f.read_text())]
