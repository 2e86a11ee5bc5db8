"""Opening Derive on a stored result: what the page asks for, against a view that reads a row."""

from django.test import Client, override_settings

from tests import recorded
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row, interleaved
from tests.server.report.test_report import PER_BLOCK, closed_form_counts

BLOCKS = 100


def measure() -> list[Row]:
    from yoke_server.accounts.models import User
    from yoke_server.derive.computing import derive_stale

    setup = fresh_setup()
    counts = closed_form_counts(BLOCKS)
    blocks = [recorded.block(i, counts[i * PER_BLOCK : (i + 1) * PER_BLOCK]) for i in range(BLOCKS)]
    run = recorded.record(setup, blocks)
    derive_stale(setup.pk)
    with override_settings(ROOT_URLCONF="tests.benchmarks.bare"):
        client = Client(headers={"host": "127.0.0.1"})
        client.force_login(User.objects.get(username="engineer"))

        def asked(address: str) -> bytes:
            answer = client.get(address)
            assert answer.status_code == 200, answer.content
            return bytes(answer.content)

        (recipe,) = run.derivations.values_list("recipe", flat=True)
        rows = []
        for words, address in (
            ("its values", f"/api/runs/{run.pk}/derivations"),
            ("its columns", f"/api/runs/{run.pk}/derivations/{recipe}/arrays"),
        ):
            ours, bare = interleaved(
                lambda at=address: asked(at), lambda: asked("/bare"), rounds=30
            )
            rows.append(
                Row(
                    f"Derive opens a stored result, {words}",
                    ours * 1e3,
                    bare * 1e3,
                    "ms",
                    "ratio at most 10",
                    ours <= 10 * bare,
                )
            )
    return rows
