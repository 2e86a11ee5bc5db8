"""A load cell calibrated against a reference in the real interface, to its certificate."""

import io
import re

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader
from yoke_server.sensors.models import Sensor

from tests.browser.cells import rig, setup

__all__ = ["rig", "setup"]

pytestmark = pytest.mark.django_db(transaction=True)
STEPS = 1 + 2 * (1 + 5 + 4 + 1)  # a preload; zero, up, down and zero again, twice


def captured(page: Page) -> int:
    return page.get_by_role("button", name=re.compile(r"^Step \d+,.*, captured$")).count()


def capture(page: Page, by_hand: bool) -> None:
    """The stand-in's load is put on; it is captured by itself, or with Space once it is there."""
    before = captured(page)
    page.get_by_role("button", name="Stand-in: put it on").click()
    done = page.get_by_role("button", name=re.compile(r"^Step \d+,.*, captured$")).nth(before)
    for _ in range(20):
        if by_hand:
            page.keyboard.press("Space")
        try:
            expect(done).to_be_visible(timeout=1_500 if by_hand else 15_000)
            return
        except AssertionError:
            assert by_hand, "it was not captured by itself"
    pytest.fail("it was not captured by hand")


def test_a_load_cell_gets_its_certificate_and_its_scaling(setup, application, open_browser):
    page = open_browser("technician")
    page.goto(f"{application}/setups/{setup.pk}/calibrate")
    page.get_by_role("button", name="Take the yoke", exact=True).click()
    page.get_by_role("button", name="Zero 2 channels").click()
    expect(page.get_by_role("link", name="all zeroed")).to_be_visible()
    page.get_by_role("button", name="Calibrate against loads").click()
    plan = page.get_by_role("region", name="Plan of a calibration")
    loads = plan.get_by_label("Loads, kN")
    loads.fill("2; 4; 3; 8; 10")
    loads.press("Enter")
    plan.get_by_role("button", name="Begin the calibration").click()
    expect(page.get_by_text("load 3 is no larger than the one before")).to_be_visible()
    loads.fill("2; 4; 6; 8; 10")
    loads.press("Enter")
    plan.get_by_role("button", name="Begin the calibration").click()
    capture(page, by_hand=False)
    for _ in range(4):
        capture(page, by_hand=True)
    page.reload()  # it is taken up where it was
    expect(page.get_by_role("region", name="Calibration")).to_be_visible()
    page.wait_for_timeout(500)
    assert captured(page) == 5
    while captured(page) < STEPS:
        capture(page, by_hand=True)
    verdict = page.get_by_role("region", name="Calibration")
    expect(verdict.get_by_text("Class 0.5", exact=True)).to_be_visible()
    expect(verdict.get_by_role("button", name="An engineer puts it in force")).to_be_disabled()

    engineer = open_browser("engineer")
    engineer.goto(f"{application}/setups/{setup.pk}/calibrate")
    engineer.get_by_role("button", name="Put in force…").click()
    engineer.get_by_label("Number of the certificate").fill("Y-26-001")
    engineer.get_by_label("Due on").fill("2099-11-30")
    engineer.get_by_role("button", name="Put in force", exact=True).click()
    link = engineer.get_by_role("link", name="Certificate Y-26-001 (PDF)")
    expect(link).to_be_visible(timeout=60_000)
    answer = engineer.request.get(f"{application}{link.get_attribute('href')}")
    text = PdfReader(io.BytesIO(answer.body())).pages[0].extract_text()
    assert "Y-26-001" in text.replace(" ", "")
    assert "LC-1192" in text
    # The stand-in's cell reads 0.036 % high, and its reference 0.005 %: the scaling takes it off.
    rated = Sensor.objects.get(serial="LC-1192").spec.rated_output
    assert rated == pytest.approx(2e-3 * (1 + 3.6e-4 - 0.5e-4), rel=1e-4)
    engineer.get_by_role("button", name="Close").click()
    expect(engineer.get_by_role("region", name="Scaling", exact=True)).to_be_visible()
