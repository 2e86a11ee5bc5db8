"""A report's PDF, opened again: what must stand in it does."""

import io
import json
import socket
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob
from pypdf import PdfReader
from yoke_server.common.http.problems import Problem
from yoke_server.derive.computing import derive_stale
from yoke_server.derive.kinds.tension.spec import TensionParameters
from yoke_server.derive.models import Derivation, Recipe
from yoke_server.record.models import Run
from yoke_server.report.models import Report
from yoke_server.report.tasks import make
from yoke_server.setups.models import Balance
from yoke_server.setups.services import keep_revision

from tests.recorded import FULL, PER_BLOCK, block, record

JSON = "application/json"
E, PROOF, STRENGTH = 70e9, 250e6, 300e6


def flat(width_m):
    """A change of the piece to one as wide as this."""
    sizes = {"width_m": width_m, "thickness_m": 3e-3, "gauge_length_m": 50e-3}
    return {"piece": {"kind": "flat", **sizes}}


def closed_form_counts(blocks):
    """Counts of force and extension for a curve whose results are known exactly."""
    n = blocks * PER_BLOCK
    stress = np.concatenate([np.linspace(0, STRENGTH, n - 300), np.linspace(STRENGTH, 270e6, 290)])
    strain = stress / E + 0.002 * (stress / PROOF) ** 20
    peak = n - 300
    strain[peak:] = strain[peak - 1] + np.linspace(0, 0.05, 290)
    stress = np.concatenate([stress, np.zeros(10)])
    strain = np.concatenate([strain, np.full(10, strain[-1] - 270e6 / E)])
    force = stress * 37.5e-6 * 2e-3 / 25e3
    extension = strain * 50e-3 * 2e-3 / 10e-3
    counts = np.zeros((n, 8), np.int32)
    counts[:, 0] = np.rint(force / 8e-3 * FULL)
    counts[:, 1] = np.rint(extension / 8e-3 * FULL)
    return counts


@pytest.fixture
def run(setup):
    for key in setup.channels.values_list("key", flat=True):
        Balance.objects.create(setup=setup, channel_key=key, zero=0.0)
    keep_revision(None, setup, "zeroed")
    counts = closed_form_counts(100)
    blocks = [block(i, counts[i * PER_BLOCK : (i + 1) * PER_BLOCK]) for i in range(100)]
    return record(setup, blocks)


def derived(client, run):
    """What the API gives after the worker's part, done here; the walk has the real worker do it."""
    derive_stale(run.setup_id)
    state = tension_of(client, run)
    assert state["stale"] is False
    return state


def tension_of(client, run):
    (state,) = client.get(f"/api/runs/{run.pk}/derivations").json()
    return state


def change(client, run, **parameters):
    recipe = tension_of(client, run)["recipe"]
    body = {"parameters": recipe["parameters"] | parameters, "run": run.pk}
    return client.patch(f"/api/recipes/{recipe['id']}", body, content_type=JSON)


def test_results_over_the_api_are_the_closed_forms(as_role, run):
    result = derived(as_role("reviewer"), run)["details"]
    assert result["modulus"]["slope"] == pytest.approx(E, rel=1e-3)
    assert result["proof"]["stress"] == pytest.approx(PROOF, rel=1e-3)
    assert result["strength"]["stress"] == pytest.approx(STRENGTH, rel=1e-4)


def test_results_are_those_of_the_first_recorder_to_the_last_digit(as_role, run):
    """Computed from the same counts by the version of 2026-11-23, and printed in full."""
    result = derived(as_role("reviewer"), run)["details"]
    assert result["modulus"] == {
        "slope": 69957623385.20801,
        "origin": -8.38262415341377e-07,
        "points": 3880,
        "correlation": 0.99999935398443,
    }
    assert result["proof"] == {"strain": 0.00557371217085878, "stress": 250008410.13607264}
    assert result["strength"] == {"strain": 0.08096179233623188, "stress": 299999917.2364672}
    assert result["elongation_after_break"] == 0.127102323174586
    assert result["energy"] == 36800071.40902901


def test_a_result_that_used_a_clipped_channel_says_so(as_role, setup):
    counts = closed_form_counts(100)
    counts[9000:9010, 0] = FULL
    blocks = [block(i, counts[i * PER_BLOCK : (i + 1) * PER_BLOCK]) for i in range(100)]
    run = record(setup, blocks)
    client = as_role("reviewer")
    result = derived(client, run)["details"]
    assert result["strength"]["stress"] == pytest.approx(STRENGTH, rel=1e-4)
    assert "F clipped in 10 of 10000 samples" in tension_of(client, run)["notes"][0]
    key = setup.channels.first().key
    low, high = columns(client.get(f"/api/runs/{run.pk}/view?channel={key}&pixels=400"))
    assert np.isinf(high).sum() == 1
    assert high[np.isfinite(high)].max() == pytest.approx(STRENGTH * 37.5e-6, rel=1e-3)
    assert np.isfinite(low).all()


def columns(answer):
    size = int.from_bytes(answer.content[:4], "little")
    numbers = np.frombuffer(answer.content, "<f4", offset=4 + size)
    return np.split(numbers, 2)


def test_moving_the_fit_range_recomputes_and_a_bad_one_stores_nothing(as_role, run):
    client = as_role("engineer")
    before = derived(client, run)["details"]["modulus"]
    moved = change(client, run, fit_lower_pa=20e6, fit_upper_pa=90e6).json()
    assert (moved["parameters"]["fit_upper_pa"], moved["version"]) == (90e6, 2)
    now = tension_of(client, run)
    assert now["stale"] is True
    assert now["details"]["modulus"] == before  # the last one stays until then
    assert derived(client, run)["details"]["modulus"]["points"] < before["points"]
    for body, field in [
        ({"fit_lower_pa": 200e6}, "fit_upper"),
        ({"fit_lower_pa": 400e6, "fit_upper_pa": 500e6}, "fit_lower"),
        ({"offset": 0.0}, "parameters.offset"),
        ({"offset": "two"}, "parameters.offset"),
        ({"kind": "magic"}, "parameters"),
    ]:
        refused = change(client, run, **body)
        assert refused.status_code == 422
        assert refused.json()["field"] == field
    assert tension_of(client, run)["recipe"]["parameters"]["fit_upper_pa"] == 90e6
    assert change(as_role("technician"), run).status_code == 403


def test_a_wrong_width_is_put_right_and_results_follow(as_role, run):
    client = as_role("engineer")
    refused = client.patch(f"/api/runs/{run.pk}", flat(0), content_type=JSON)
    assert refused.json()["field"] == "piece.width_m"
    client.patch(f"/api/runs/{run.pk}", flat(0.01), content_type=JSON)
    result = derived(client, run)["details"]
    assert result["strength"]["stress"] == pytest.approx(STRENGTH * 1.25, rel=1e-4)


def test_a_read_computes_and_writes_nothing(as_role, run):
    client = as_role("reviewer")
    url = f"/api/runs/{run.pk}/derivations"
    assert client.get(url).json() == []
    recipe = Recipe.objects.create(setup=run.setup, parameters=TensionParameters())
    (first,) = client.get(url).json()
    assert (first["stale"], first["details"], first["computed_at"]) == (True, None, None)
    assert client.get(f"{url}/{recipe.pk}/arrays").status_code == 404
    assert not Derivation.objects.exists()
    derived(client, run)
    row = Derivation.objects.get()
    derive_stale(run.setup_id)  # nothing is stale: nothing is computed
    assert Derivation.objects.get().computed_at == row.computed_at


def test_a_run_that_closes_or_is_put_right_is_computed_by_the_worker(run, as_role):
    waiting = ProcrastinateJob.objects.filter(task_name__endswith="results_of_setup")
    assert [(j.args, j.status) for j in waiting] == [
        ({"setup_id": run.setup_id, "first": run.pk}, "todo")
    ]
    as_role("technician").patch(f"/api/runs/{run.pk}", flat(0.012), content_type=JSON)
    assert waiting.count() == 1  # the one that waits finds it stale too


def test_what_cannot_be_computed_says_why(setup, as_role):
    run = record(setup, [block(i) for i in range(5)])
    state = derived(as_role("reviewer"), run)
    assert state["details"] is None
    assert state["problem"]["title"]


def test_a_fault_with_one_run_keeps_no_other_from_its_results(setup, run, as_role, monkeypatch):
    from yoke_server.derive.kinds.tension import compute as tension

    curve_of = tension.curve_of
    other = record(setup, [block(i) for i in range(5)], number=2)

    def faulty(one, parameters):
        if one.pk == other.pk:
            raise ZeroDivisionError
        return curve_of(one, parameters)

    monkeypatch.setattr(tension, "curve_of", faulty)
    client = as_role("reviewer")
    assert derived(client, run)["details"]
    assert "worker's log" in derived(client, other)["problem"]["hint"]


def test_a_curve_is_kept_thinned_to_its_break_with_its_elastic_part(as_role, run):
    client = as_role("reviewer")
    state = derived(client, run)
    url = f"/api/runs/{run.pk}/derivations/{state['recipe']['id']}/arrays"
    answer = client.get(url)
    size = int.from_bytes(answer.content[:4], "little")
    header = json.loads(answer.content[4 : 4 + size])["columns"]
    assert [(c["name"], c["unit"]) for c in header] == [("strain", "%"), ("stress", "MPa")]
    strain, stress = np.split(np.frombuffer(answer.content, "<f4", offset=4 + size), 2)
    whole = state["details"]["whole_points"]
    assert 300 < whole <= 8000
    assert stress[:whole].max() == pytest.approx(STRENGTH, rel=1e-4)
    assert stress[whole - 1] == pytest.approx(270e6, rel=1e-2)  # the curve ends at the break
    assert strain[whole:].max() == pytest.approx(0.01, rel=0.05)  # five offsets


def test_results_are_rows_with_method_and_clause(as_role, run):
    rows = {r["symbol"]: r for r in derived(as_role("reviewer"), run)["results"]}
    assert list(rows) == ["E", "Rp0.2", "Rm", "Ag", "At", "A", "Energy"]
    assert rows["Rm"]["value"] == pytest.approx(STRENGTH, rel=1e-4)
    assert (rows["E"]["unit"], rows["E"]["clause"]) == ("GPa", "ISO 6892-1:2019, annex G")


def test_a_series_leaves_out_runs_that_broke_off(as_role, setup, run):
    counts = closed_form_counts(100)
    blocks = [block(i, counts[i * PER_BLOCK : (i + 1) * PER_BLOCK]) for i in range(100)]
    record(setup, blocks, number=2)
    broken = record(setup, blocks, number=3)
    Run.objects.filter(pk=broken.pk).update(state="interrupted")
    client = as_role("reviewer")
    derive_stale(setup.pk)
    found = {s["symbol"]: s for s in client.get(f"/api/setups/{setup.pk}/series").json()}
    assert found["Rm"]["count"] == 2
    assert found["Rm"]["mean"] == pytest.approx(STRENGTH, rel=1e-4)
    assert found["Rm"]["deviation"] == pytest.approx(0, abs=1)


def test_the_view_of_a_run_has_no_more_numbers_than_pixels(as_role, run, setup):
    key = setup.channels.first().key
    client = as_role("reviewer")
    low, high = columns(client.get(f"/api/runs/{run.pk}/view?channel={key}&pixels=200"))
    assert low.size + high.size <= 200
    assert high.max() == pytest.approx(STRENGTH * 37.5e-6, rel=1e-4)
    assert client.get(f"/api/runs/{run.pk}/view?channel=nothing").status_code == 404


def test_the_pdf_opened_again(as_role, run):
    client = as_role("engineer")
    report = client.post(f"/api/runs/{run.pk}/report").json()
    assert (report["stale"], report["pages"]) == (True, 0)
    ordered = client.post(f"/api/reports/{report['id']}/pdf")
    assert ordered.status_code == 202
    task = ordered.json()["id"]
    assert client.get(f"/api/tasks/{task}").json() == {"id": task, "state": "waiting"}
    # The worker's part, here in this process; the browser walk has the real worker do it.
    make(report["id"])
    answer = client.get(f"/api/reports/{report['id']}/file.pdf")
    assert f'filename="{report["number"]}_A_' in answer["Content-Disposition"]
    text = " ".join(
        " ".join(p.extract_text() for p in PdfReader(io.BytesIO(answer.content)).pages).split()
    )
    for wanted in (
        "Tension test of C1",
        "Tube coupons, aluminium",
        "Shed bench",
        "Fernhollow Cargo Cycles",
        "width 12.50 mm",
        "Rp0.2, proof strength, at 0.2 % plastic extension 250.0 MPa",
        "Rm, tensile strength, at maximum force 300.0 MPa",
        "70.0 GPa",
        "LC-2207",
        "EX-0351",
        "12.5 kN per mV/V",
        "2027-03-14",
        "No sample is missing",
        run.seal,
    ):
        assert wanted in text
    page = client.get(f"/api/reports/{report['id']}/pages/1.png")
    assert page.content.startswith(b"\x89PNG")
    fresh = client.get(f"/api/setups/{run.setup_id}/reports").json()["items"][0]
    assert (fresh["stale"], fresh["pages"]) == (False, 2)
    client.patch(f"/api/reports/{report['id']}", {"remarks": "Second look"}, content_type=JSON)
    assert client.get(f"/api/setups/{run.setup_id}/reports").json()["items"][0]["stale"] is True


@pytest.mark.django_db(transaction=True)
def test_a_report_changed_while_it_is_rendered_is_stale_when_it_is_ready(as_role, run, monkeypatch):
    from yoke_server.report import pdf

    client, editor = as_role("engineer"), as_role("engineer")
    report = client.post(f"/api/runs/{run.pk}/report").json()
    url = f"/api/reports/{report['id']}"
    client.post(f"{url}/pdf")  # ordered before the edit, rendered after it
    client.patch(url, {"remarks": "First look"}, content_type=JSON)
    render = pdf.render

    def edit():
        editor.patch(url, {"remarks": "Changed meanwhile"}, content_type=JSON)
        connection.close()

    def edited_meanwhile(row):
        with ThreadPoolExecutor(1) as pool:
            pool.submit(edit).result()
        return render(row)

    monkeypatch.setattr(pdf, "render", edited_meanwhile)
    make(report["id"])
    reports = f"/api/setups/{run.setup_id}/reports"
    assert client.get(reports).json()["items"][0]["stale"] is True
    monkeypatch.setattr(pdf, "render", render)
    make(report["id"])
    assert client.get(reports).json()["items"][0]["stale"] is False


def test_remarks_are_printed_as_text_not_markup(run, as_role):
    from yoke_server.report.pdf import html_of

    client = as_role("engineer")
    report = client.post(f"/api/runs/{run.pk}/report").json()
    body = {"remarks": "<script>alert(1)</script>"}
    client.patch(f"/api/reports/{report['id']}", body, content_type=JSON)
    derive_stale(run.setup_id)
    html = html_of(Report.objects.select_related("project").get(pk=report["id"]))
    assert "&lt;script&gt;" in html
    assert "<script>" not in html


def test_text_is_text_in_the_pdf_and_nothing_is_fetched(as_role, run):
    client = as_role("engineer")
    report = client.post(f"/api/runs/{run.pk}/report").json()
    with socket.create_server(("127.0.0.1", 0)) as trap:
        port = trap.getsockname()[1]
        number = f'"}} a{{b:url(//127.0.0.1:{port})'
        remarks = (
            f"<img src=http://127.0.0.1:{port}/x> <link rel=stylesheet href=file:///etc/passwd>"
        )
        body = {"number": number, "revision": "}*{", "remarks": remarks}
        changed = client.patch(f"/api/reports/{report['id']}", body, content_type=JSON)
        assert changed.status_code == 200, changed.content
        make(report["id"])
        trap.setblocking(False)
        with pytest.raises(BlockingIOError):
            trap.accept()
    answer = client.get(f"/api/reports/{report['id']}/file.pdf")
    reader = PdfReader(io.BytesIO(answer.content))
    assert len(reader.pages) == 2
    for page in reader.pages:
        printed = "".join(page.extract_text().split())
        assert f"{number}, revision }}*{{".replace(" ", "") in printed
    name = answer["Content-Disposition"]
    assert name.startswith('attachment; filename="')
    assert not set(name) & set("\r\n{}/")


@pytest.mark.parametrize(
    "url", ["http://127.0.0.1:1/x", "file:///etc/passwd", "file://{fonts}/../pdf.py", "data:,x"]
)
def test_a_document_reaches_our_fonts_only(url):
    from yoke_server.derive.figures.style import FONTS
    from yoke_server.report.pdf import OwnFonts

    with pytest.raises(ValueError, match="nothing from elsewhere"):
        OwnFonts().fetch(url.format(fonts=FONTS))
    assert OwnFonts().fetch((FONTS / "Archivo-Regular.ttf").as_uri())


def test_a_report_is_blocks_that_are_put_in_order_added_and_taken_out(as_role, run):
    client = as_role("engineer")
    report = client.post(f"/api/runs/{run.pk}/report").json()
    kinds = [b["kind"] for b in report["blocks"]]
    assert kinds == [
        "run_facts",
        "result_table",
        "result_picture",
        "course",
        "channel_table",
        "raw_data",
    ]
    offers = client.get(f"/api/runs/{run.pk}/blocks").json()
    assert offers.pop(0) == {"title": "Text", "block": {"kind": "paragraph", "text": ""}}
    assert [o["block"] for o in offers] == report["blocks"]
    assert offers[1]["title"] == "Results of tension – C1 run 1"
    url = f"/api/reports/{report['id']}"
    text = {"kind": "paragraph", "text": "In short: it held."}
    blocks = [text, report["blocks"][1], report["blocks"][0]]
    changed = client.patch(url, {"blocks": blocks}, content_type=JSON).json()
    assert [b["kind"] for b in changed["blocks"]] == ["paragraph", "result_table", "run_facts"]
    make(report["id"])
    file = client.get(f"{url}/file.pdf").content
    printed = " ".join(p.extract_text() for p in PdfReader(io.BytesIO(file)).pages)
    places = [printed.index(words) for words in ("In short", "Rm,", "Customer")]
    assert places == sorted(places)
    assert "Fingerprint of the run" not in printed


@pytest.mark.parametrize(
    ("block", "field"),
    [
        ({"kind": "run_facts", "run": 10**6}, "blocks.1.run"),
        ({"kind": "result_table", "recipe": 10**6}, "blocks.1.recipe"),
        ({"kind": "course", "channels": ["gone"]}, "blocks.1.channels"),
        ({"kind": "course", "channels": []}, "blocks.1.channels"),
        ({"kind": "advert"}, "blocks.1"),
    ],
    ids=str,
)
def test_a_block_shows_what_there_is(as_role, run, block, field):
    client = as_role("engineer")
    report = client.post(f"/api/runs/{run.pk}/report").json()
    block = {"run": run.pk, **block} if block["kind"] != "advert" else block
    blocks = [{"kind": "raw_data", "run": run.pk}, block]
    url = f"/api/reports/{report['id']}"
    refused = client.patch(url, {"blocks": blocks}, content_type=JSON)
    assert (refused.status_code, refused.json()["field"]) == (422, field)
    assert len(Report.objects.get().blocks) == 6


def test_a_pdf_is_tagged_and_its_pictures_have_words(as_role, run):
    client = as_role("engineer")
    report = client.post(f"/api/runs/{run.pk}/report").json()
    make(report["id"])
    reader = PdfReader(io.BytesIO(client.get(f"/api/reports/{report['id']}/file.pdf").content))
    root = reader.trailer["/Root"]
    assert root["/MarkInfo"]["/Marked"]
    assert root["/Lang"] == "en"
    assert "Stress over strain, up to 300.0 MPa" in str(_alternatives(root["/StructTreeRoot"]))


def _alternatives(node):
    """Every alternative text in a tree of tags."""
    node = node.get_object() if hasattr(node, "get_object") else node
    if not hasattr(node, "get"):
        return []
    kids = node.get("/K", [])
    kids = kids if isinstance(kids, list) else [kids]
    own = [str(node["/Alt"])] if "/Alt" in node else []
    return own + [text for kid in kids for text in _alternatives(kid)]


def test_a_report_says_why_a_result_cannot_be_shown(as_role, setup):
    client = as_role("engineer")
    setup.channels.filter(name="e clip").delete()
    keep_revision(None, setup, "no extensometer")
    bare = record(setup, [block(i) for i in range(3)])
    Recipe.objects.create(setup=setup, parameters=TensionParameters())
    report = client.post(f"/api/runs/{bare.pk}/report").json()
    with pytest.raises(Problem, match="no channel that measures extension"):
        make(report["id"])
