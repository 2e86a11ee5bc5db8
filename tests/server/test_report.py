"""A report's PDF, opened again: what must stand in it does."""

import io

import numpy as np
import pytest
from pypdf import PdfReader
from yoke_core.bridge.scaling import RatedOutputScaling
from yoke_server.record.closing import close_run
from yoke_server.record.models import Run, RunState
from yoke_server.record.recorder.session import Session
from yoke_server.report.models import Report
from yoke_server.report.tasks import make_pdf
from yoke_server.wire.frozen import freeze

from tests.server.test_storage import FULL, PER_BLOCK, DirectWriter, block

JSON = "application/json"
E, PROOF, STRENGTH = 70e9, 250e6, 300e6


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
    setup.channels.update(zero_mv_v=0.0)
    made = Run.objects.create(
        setup=setup, number=1, name="C1 run 1", state=RunState.RECORDING, specimen="C1",
        frozen=freeze(setup).model_dump(mode="json"), width_m=0.0125, thickness_m=0.003,
        gauge_length_m=0.05,
    )  # fmt: skip
    session = Session(made, DirectWriter(), FULL, lambda a, b: None)
    session.open(block(0))
    counts = closed_form_counts(100)
    for i in range(100):
        session.push(block(i, rng=counts[i * PER_BLOCK : (i + 1) * PER_BLOCK]))
    DirectWriter().put(session.last_envelope_rows())
    close_run(made.pk, RunState.KEPT, "The force fell by 40 %")
    made.refresh_from_db()
    return made


def test_results_over_the_api_are_the_closed_forms(as_role, run):
    result = as_role("reviewer").get(f"/api/runs/{run.pk}/tension").json()["result"]
    assert RatedOutputScaling(2e-3, 25e3).apply(2e-3) == 25e3
    assert result["modulus"]["slope"] == pytest.approx(E, rel=1e-3)
    assert result["proof"]["stress"] == pytest.approx(PROOF, rel=1e-3)
    assert result["strength"]["stress"] == pytest.approx(STRENGTH, rel=1e-4)


def test_moving_the_fit_range_recomputes_and_a_bad_one_stores_nothing(as_role, run):
    client = as_role("engineer")
    url = f"/api/runs/{run.pk}/tension"
    moved = client.patch(url, {"fit_lower_pa": 20e6, "fit_upper_pa": 90e6}, content_type=JSON)
    assert moved.json()["result"]["modulus"]["points"] != 0
    assert moved.json()["recipe"]["fit_upper_pa"] == 90e6
    for body, field in [
        ({"fit_lower_pa": 200e6}, "fit_upper"),
        ({"fit_lower_pa": 400e6, "fit_upper_pa": 500e6}, "fit_lower"),
        ({"offset": 0}, "offset"),
        ({"offset": "two"}, "offset"),
    ]:
        refused = client.patch(url, body, content_type=JSON)
        assert refused.status_code == 422
        assert refused.json()["field"] == field
    assert client.get(url).json()["recipe"]["fit_upper_pa"] == 90e6
    assert as_role("technician").patch(url, {}, content_type=JSON).status_code == 403


def test_a_wrong_width_is_put_right_and_results_follow(as_role, run):
    client = as_role("engineer")
    refused = client.patch(f"/api/runs/{run.pk}", {"width_m": 0}, content_type=JSON)
    assert refused.json()["field"] == "width_m"
    client.patch(f"/api/runs/{run.pk}", {"width_m": 0.01}, content_type=JSON)
    result = client.get(f"/api/runs/{run.pk}/tension").json()["result"]
    assert result["strength"]["stress"] == pytest.approx(STRENGTH * 1.25, rel=1e-4)


def test_the_view_of_a_run_has_no_more_numbers_than_pixels(as_role, run):
    answer = as_role("reviewer").get(f"/api/runs/{run.pk}/view?channel=0&pixels=200")
    size = int.from_bytes(answer.content[:4], "little")
    numbers = np.frombuffer(answer.content, "<f4", offset=4 + size)
    assert numbers.size <= 200
    assert numbers.max() == pytest.approx(STRENGTH * 37.5e-6, rel=1e-4)
    assert as_role("reviewer").get(f"/api/runs/{run.pk}/view?channel=7").status_code == 404


def test_the_pdf_opened_again(as_role, run):
    client = as_role("engineer")
    report = client.post(f"/api/runs/{run.pk}/report").json()
    assert (report["stale"], report["pages"]) == (True, 0)
    ordered = client.post(f"/api/reports/{report['id']}/pdf")
    assert ordered.status_code == 202
    task = ordered.json()["id"]
    assert client.get(f"/api/tasks/{task}").json() == {"id": task, "state": "waiting"}
    # The worker's part, here in this process; the browser walk has the real worker do it.
    from yoke_server.derive.services import recipe_of
    from yoke_server.report.contents import fingerprint

    row = Report.objects.select_related("run").get(pk=report["id"])
    make_pdf(report["id"], fingerprint(row, recipe_of(row.run)))
    answer = client.get(f"/api/reports/{report['id']}/file.pdf")
    assert f'filename="{report["number"]}_A_' in answer["Content-Disposition"]
    text = " ".join(
        " ".join(p.extract_text() for p in PdfReader(io.BytesIO(answer.content)).pages).split()
    )
    for wanted in (
        "Tension test of C1", "Tube coupons, aluminium", "Shed bench", "Fernhollow Cargo Cycles",
        "width 12.50 mm", "Rp0.2, proof strength at 0.2 % plastic extension 250.0 MPa",
        "Rm, tensile strength 300.0 MPa", "70.0 GPa", "LC-2207", "EX-0351",
        "12.5 kN per mV/V", "2027-03-14", "No sample is missing", run.seal,
    ):  # fmt: skip
        assert wanted in text
    page = client.get(f"/api/reports/{report['id']}/pages/1.png")
    assert page.content.startswith(b"\x89PNG")
    fresh = client.get(f"/api/setups/{run.setup_id}/reports").json()[0]
    assert (fresh["stale"], fresh["pages"]) == (False, 2)
    client.patch(f"/api/reports/{report['id']}", {"remarks": "Second look"}, content_type=JSON)
    assert client.get(f"/api/setups/{run.setup_id}/reports").json()[0]["stale"] is True


def test_remarks_are_printed_as_text_not_markup(run, as_role):
    from django.template.loader import render_to_string
    from yoke_server.report.contents import fields

    client = as_role("engineer")
    report = client.post(f"/api/runs/{run.pk}/report").json()
    body = {"remarks": "<script>alert(1)</script>"}
    client.patch(f"/api/reports/{report['id']}", body, content_type=JSON)
    row = Report.objects.select_related("run__setup__project").get(pk=report["id"])
    html = render_to_string("report/tension.html", fields(row))
    assert "&lt;script&gt;" in html
    assert "<script>" not in html
