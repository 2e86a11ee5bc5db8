"""What holds for the whole project: light web start, current API types, reversible migrations."""

import ast
import json
import re
import subprocess
import sys
import tomllib
from io import StringIO

import pytest
from django.core.management import call_command
from django.db import connection
from django.db.migrations.loader import MigrationLoader
from yoke_server.live.management.commands.export_frame_layout import typescript

from tests.processes import ROOT, environment

HEAVY = {"scipy", "numba", "pandas", "matplotlib", "weasyprint"}


@pytest.mark.django_db
def test_the_web_process_starts_without_heavy_imports():
    code = "import yoke_server.config.asgi, sys, json; print(json.dumps(list(sys.modules)))"
    found = subprocess.run(
        [sys.executable, "-c", code],
        env=environment("yoke"),
        capture_output=True,
        text=True,
        check=True,
    )
    assert not HEAVY & set(json.loads(found.stdout.splitlines()[-1]))


def test_the_web_types_are_those_of_the_api(tmp_path):
    spec = tmp_path / "openapi.json"
    call_command(
        "export_openapi_schema", api="yoke_server.config.api.api", output=str(spec), indent=1
    )
    assert json.loads(spec.read_text()) == json.loads((ROOT / "web/openapi.json").read_text())
    types = tmp_path / "schema.d.ts"
    tool = ROOT / "web/node_modules/.bin/openapi-typescript"
    subprocess.run([tool, spec, "-o", types], check=True, capture_output=True)
    assert types.read_text() == (ROOT / "web/src/api/schema.d.ts").read_text()


def test_the_webs_frame_layout_is_the_servers():
    assert typescript() == (ROOT / "web/src/live/frameLayout.ts").read_text()


def test_each_test_that_the_page_on_safety_names_is_there():
    named = set(re.findall(r"`(test_\w+)`", (ROOT / "docs/safety.md").read_text()))
    code = "".join(f.read_text() for f in (ROOT / "tests").rglob("test_*.py"))
    assert len(named) > 15
    assert named <= set(re.findall(r"^def (test_\w+)", code, re.MULTILINE))


def test_each_mutant_that_the_page_on_safety_names_is_there():
    named = set(re.findall("“([^”]+)”", (ROOT / "docs/safety.md").read_text()))
    mutants = tomllib.loads((ROOT / "tests/simulation/mutants.toml").read_text())["mutant"]
    assert len(named) > 15
    assert named <= {mutant["name"] for mutant in mutants}


@pytest.mark.django_db
def test_models_and_migrations_agree():
    call_command("makemigrations", check=True, dry_run=True, stdout=StringIO())


@pytest.mark.django_db
def test_our_migrations_are_reversible():
    migrations = MigrationLoader(connection).disk_migrations
    ours = [m for (app, _), m in migrations.items() if m.__module__.startswith("yoke_server")]
    assert len(ours) >= 8
    for migration in ours:
        assert all(operation.reversible for operation in migration.operations), migration


@pytest.mark.parametrize(
    ("lock", "marks"),
    [
        ("requirements.txt", ["--index-url", "--find-links", "://"]),
        ("requirements-dev.txt", ["--index-url", "--find-links", "://"]),
        ("web/package-lock.json", ['"resolved"']),
    ],
)
def test_lock_files_name_no_download_address(lock, marks):
    lines = [x for x in (ROOT / lock).read_text().splitlines() if not x.startswith("#")]
    assert len(lines) > 100
    assert not [line for line in lines if any(mark in line for mark in marks)]


def test_no_handler_can_end_without_an_answer():
    """A `next` that finds nothing raises what no future carries: the request hangs for good."""
    bare = []
    for file in (ROOT / "server").rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            calls_next = isinstance(node, ast.Call) and getattr(node.func, "id", "") == "next"
            if calls_next and len(node.args) == 1 and isinstance(node.args[0], ast.GeneratorExp):
                bare.append(f"{file.name}:{node.lineno}")
    assert not bare
