"""Filters and corrections in the real interface: a filter while a run records, a gauge factor put
right in three runs, a file in milliseconds."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from yoke_server.derive.kinds.cycles.spec import CyclesParameters
from yoke_server.derive.models import Derivation, Recipe
from yoke_server.record.models import Run, RunState
from yoke_server.setups.freezing import freeze

from tests.processes import wait_for
from tests.recorded import FULL, PER_BLOCK, begin, block, close, keeper, stream_of

pytestmark = pytest.mark.django_db(transaction=True)
BLOCKS = 20


def recorded(setup, number, rate_hz=1000.0, **fields):
    """A run of two thousand samples in which each channel swings."""
    run = begin(setup, number, **fields)
    one, seconds = keeper(run, stream_of(run, rate=rate_hz)), PER_BLOCK / rate_hz
    for at in range(BLOCKS):
        t = (at * PER_BLOCK + np.arange(PER_BLOCK)) / 1000.0
        wave = np.sin(2 * np.pi * 5 * t)[:, None] * np.arange(1, 9)[None, :] / 20
        counts = np.round(FULL * wave).astype(np.int32)
        one.take(block(at, counts, rate=rate_hz, time_ns=round(at * seconds * 1e9)))
    return close(run, one)


def token(page: Page) -> dict[str, str]:
    return {"X-CSRFToken": page.evaluate("/csrftoken=([^;]+)/.exec(document.cookie)[1]")}


def test_a_filter_added_while_a_run_records_is_seen_live(setup, application, open_browser):
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/calibrate")
    page.get_by_role("button", name="Take the yoke", exact=True).click()
    expect(page.get_by_text("Yoke: you")).to_be_visible()
    setup.refresh_from_db()
    started = page.request.post(
        f"{application}/api/setups/{setup.pk}/runs",
        data={"version": setup.version, "pull": False},
        headers=token(page),
    )
    assert started.ok, started.text()
    page.get_by_role("button", name="SG1", exact=True).first.click()
    page.get_by_role("radio", name="Steps").click()
    page.get_by_label("Add a step").select_option("low_pass")
    steps = page.get_by_role("list", name="Steps of SG1")
    filtered = steps.get_by_role("button", name=re.compile("Low-pass"))
    expect(filtered).to_contain_text(re.compile(r"20 Hz.*\d\.\d"))  # its value, live
    expect(page.get_by_label("Response of the filter")).to_be_visible()
    expect(page.get_by_text(re.compile(r"A slow change comes .* ms late"))).to_be_visible()
    # Switched off it is still there, and the reading is the raw one again.
    page.get_by_role("switch", name="Low-pass on").click()
    expect(filtered).to_contain_text("off")
    run = Run.objects.get(setup=setup)
    assert run.state == RunState.RECORDING
    stopped = page.request.post(f"{application}/api/runs/{run.pk}/stop", headers=token(page))
    assert stopped.ok
    wait_for(lambda: run.streams.get(device_label="A1").samples > 0, "the run's samples")


def test_a_gauge_factor_is_put_right_in_three_runs(setup, application, open_browser):
    gauge = setup.channels.get(name="SG1").key
    for number in (1, 2, 3):
        recorded(setup, number)
    recipe = Recipe.objects.create(setup=setup, parameters=CyclesParameters(channel=gauge))
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/derive")
    page.request.patch(  # which has its results computed
        f"{application}/api/recipes/{recipe.pk}",
        data={"parameters": CyclesParameters(channel=gauge, gate=1e-6).model_dump(mode="json")},
        headers=token(page),
    )

    def highest():
        found = Derivation.objects.filter(recipe=recipe, results__symbol="max")
        return list(found.order_by("run").values_list("results__value", flat=True))

    wait_for(lambda: len(highest()) == 3, "the results of three runs")
    before = highest()
    page.get_by_role("button", name="Correct a channel").click()
    sheet = page.get_by_role("region", name="Correction", exact=True)
    sheet.get_by_role("combobox", name="Channel").select_option(gauge)
    sheet.get_by_role("combobox", name="Correction").select_option("gauge_factor_correction")
    factor = sheet.get_by_label("Gauge factor")
    factor.fill("1,04")
    factor.press("Enter")
    sheet.get_by_role("button", name="All").click()
    expect(sheet).to_contain_text("Becomes stale: 3 results")
    expect(sheet.get_by_role("button", name="Give a reason first")).to_be_disabled()
    sheet.get_by_label("Reason").fill("Packet says 1.04")
    sheet.get_by_role("button", name="Put 3 runs right").click()
    made = page.get_by_role("region", name="Corrections")
    expect(made).to_contain_text("SG1: 1.04")
    expect(made).to_contain_text("Packet says 1.04")
    wait_for(
        lambda: highest() == pytest.approx([2 * v for v in before], rel=0.01),
        "the renewed results",
    )
    # Off, everything is as it was.
    made.get_by_role("switch", name="Gauge factor on").click()
    expect(made).to_contain_text("off;")
    wait_for(lambda: highest() == pytest.approx(before, rel=1e-6), "the results as they were")


def test_a_file_in_milliseconds_is_corrected_by_its_hint(setup, application, open_browser):
    recorded(setup, 1)
    document = freeze(setup).model_dump(mode="json")
    slow = recorded(setup, 2, rate_hz=1.0, document=document)  # its milliseconds taken for seconds
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/derive?run={slow.pk}")
    hints = page.get_by_role("region", name="Corrections")
    expect(hints).to_contain_text("time looks like milliseconds")
    expect(hints).to_contain_text("It lasts 2000 s, C1 run 1 2 s.")
    hints.get_by_role("button", name="Multiply its time by 0.001").click()
    sheet = page.get_by_role("region", name="Correction", exact=True)
    expect(sheet.get_by_label("Reason")).to_have_value(re.compile("It lasts 2000 s"))
    sheet.get_by_role("button", name="Put C1 run 2 right").click()
    expect(hints).to_contain_text("Time base")
    expect(hints).not_to_contain_text("looks like milliseconds")
    shown = page.request.get(f"{application}/api/setups/{setup.pk}/runs").json()["items"]
    assert {r["number"]: round(r["duration_s"], 3) for r in shown} == {1: 2.0, 2: 2.0}
