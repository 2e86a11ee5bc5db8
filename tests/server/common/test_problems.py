"""Types of problems: each has a meaning, a row on their page and a page of its own."""

import ast
import re

from yoke_server.common.http.problem_types import MEANINGS, ProblemType

from tests.processes import ROOT


def test_each_type_has_its_row_on_the_page_of_problems():
    rows = re.findall(r"^\| `([a-z-]+)` \| (.+) \|$", (ROOT / "docs/problems.md").read_text(), re.M)
    assert dict(rows) == {str(known): meaning for known, meaning in MEANINGS.items()}
    assert set(MEANINGS) == set(ProblemType)


def test_a_problems_type_is_the_address_of_its_meaning(client, db):
    refused = client.get("/api/projects").json()
    assert refused["type"] == "/problems/not-signed-in"
    page = client.get(refused["type"])
    assert "Nobody is signed in" in page.content.decode()
    assert client.get("/problems/no-such-thing").status_code == 404


def test_a_conflict_always_says_of_which_type_it_is():
    bare = []
    for file in (ROOT / "server").rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if not isinstance(node, ast.Call) or getattr(node.func, "id", "") != "Problem":
                continue
            is_conflict = isinstance(node.args[0], ast.Constant) and node.args[0].value == 409
            if is_conflict and not any(k.arg == "code" for k in node.keywords):
                bare.append(f"{file.name}:{node.lineno}")
    assert not bare
