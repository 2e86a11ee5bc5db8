"""A component test in the real interface: from an empty house to a PDF, with its prediction."""

import io
import re
from contextlib import ExitStack

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader
from yoke_server.demo import services as demo

from tests import processes
from tests.browser.chromium import Watched, found_at, have_it_be
from tests.browser.conftest import SPEED
from tests.browser.test_walk import stage

pytestmark = pytest.mark.django_db(transaction=True)

PREDICTION = processes.ROOT / "docs" / "examples" / "fk12_crown_r4.txt"
# By serial: other benches may announce themselves on this computer, too.
DEVICES = [("A3", "20731", "A1"), ("M2", "30177", "M1"), ("Servo", "2044", "D1")]
WIRED = [  # input, what is typed to find the sensor, the name it is given
    ("1.1", "lot 0902-1", "R1"),
    ("1.4", "LC-1192", "F axle"),
    ("1.5", "lot 0790-1", "B1"),
    ("1.6", "lot 0744-2", "G4"),
    ("M1.1", "DT-0433", "u axle"),
    ("M1.2", "PT-1744", "P hyd"),
    ("M1.5", "TP-0091", "T"),
]
READS_120 = re.compile("Grid reads 1(19.9|20.[01]).Ω, 350.0.Ω is set")  # as read with its noise
FAULTS = [  # channel, what the stand-in is told, what the check must say
    ("R1a", "brown core broken", "Brown core is broken between pin 1 and the grid"),
    (
        "R1b",
        "gauge of about a third of the resistance",
        re.compile("Grid reads 1(19.9|20.[01]).Ω, 350.0.Ω is set"),
    ),
    ("R1c", "mains hum", "Mains hum"),
    ("F axle", "brown and blue swapped", "Brown core and blue core are swapped, pins 1 and 6"),
    ("B1", "plug pulled", "Nothing is connected"),
    ("G4", "insulation 20 MΩ", "Insulation is poor"),
]


@pytest.fixture
def rig():
    with processes.rig(SPEED, 7, "fork", "--discoverable") as found:
        yield found


@pytest.fixture
def empty_house(browser, database, rig):
    """People and a library, no bench, no project; gives a page."""
    demo.people()
    demo.add_sensors(demo.FORK_SENSORS)
    with ExitStack() as stack:
        stack.enter_context(processes.recorder(database, speed=SPEED))
        stack.enter_context(processes.worker(database))
        address = stack.enter_context(processes.web(database))
        watched = Watched(browser)
        yield watched.sign_in(address, "engineer")
        watched.context.close()
        assert watched.faults == []


def find_devices(page: Page, rig: processes.Rig) -> None:
    """A bench without devices: what announces itself on its network is added."""
    for stand_in, serial, label in DEVICES:
        page.get_by_role("button", name=re.compile("^(Find devices|Look again)$")).click()
        found = found_at(page, rig.ports[stand_in])
        expect(found).to_contain_text(serial)
        found.get_by_role("button").click()
        page.get_by_role("button", name="Test the connection").click()
        expect(page.get_by_text("It answers:")).to_be_visible(timeout=10_000)
        page.get_by_role("button", name="Add it to the bench").click()
        expect(page.get_by_role("button", name=re.compile(f"^{label}"))).to_be_visible()
    page.get_by_role("radio", name="Drawing").click()


def add_setup(page: Page) -> None:
    page.get_by_label("Name, by which people know its place").fill("Fork bench")
    page.get_by_role("button", name="Set up the bench").click()
    page.get_by_role("button", name=re.compile("^New project")).click()
    page.get_by_label("Name", exact=True).fill("Front fork FK-12")
    page.get_by_role("button", name="Begin the project").click()
    page.get_by_role("button", name="Add a setup").first.click()
    page.get_by_label("It begins as").select_option(label="Component with actuator")
    form = page.get_by_role("form", name="New setup")
    form.get_by_label("Name", exact=True).fill("Static")
    form.get_by_role("button", name="Add the setup").click()
    page.get_by_role("link", name="Open Static").click()


def wire(page: Page) -> None:
    for place, serial, name in WIRED:
        page.get_by_role("button", name=re.compile(f"^{re.escape(place)} Free")).click()
        page.get_by_label("Search the sensor library").fill(serial)
        page.get_by_role("button", name=re.compile(re.escape(serial))).click()
        page.get_by_label("Channel name").fill(name)
        page.get_by_role("button", name=f"Wire {name} to input {place}").click()
        shown = "R1a" if name == "R1" else name
        expect(page.get_by_role("img", name=f"Wiring of {shown}")).to_be_visible()
        if name == "G4":  # two wires of 12 m stand far off zero
            page.get_by_role("radiogroup", name="Range").get_by_text("40").click()
            expect(page.get_by_role("radio", name="40", checked=True)).to_be_visible()


def find_faults(page: Page) -> None:
    """Each input is put into a state that it should not be in; the check names it."""
    page.get_by_role("button", name="Take the yoke", exact=True).click()
    for name, fault, _ in FAULTS:
        pretend(page, name, fault)
    page.get_by_role("button", name="Check 9 inputs").click()
    expect(page.get_by_role("alert").filter(has_text="Insulation is poor")).to_be_visible()
    page.get_by_role("radio", name="Table").click()
    for name, _, words in FAULTS:
        found = page.get_by_role("row").filter(has=page.get_by_text(name, exact=True))
        expect(found).to_contain_text(words)
    page.get_by_role("radio", name="Drawing").click()
    for name, _, _ in FAULTS:
        pretend(page, name, "well")
    page.get_by_role("button", name="Check 9 inputs").click()
    expect(page.get_by_text("All well")).to_be_visible()


def pretend(page: Page, name: str, fault: str) -> None:
    page.get_by_role("button", name=re.compile(rf" {name}(?![\w])")).first.click()
    have_it_be(page, fault)


def import_file(page: Page) -> None:
    page.get_by_role("link", name="Import a file").click()
    page.get_by_label("Choose a file").set_input_files(PREDICTION)
    columns = page.get_by_label("Columns")
    expect(columns).to_contain_text("moves against B1")
    expect(page.get_by_label("Unit of U_AX")).to_have_value("m")
    expect(page.get_by_label("The file as it is")).to_contain_text("Line 1074, CR_45")
    page.get_by_role("radio", name="Bridge by straight lines").click()
    expect(page.get_by_text("at 100.00 Hz")).to_be_visible()
    # A choice that cannot be is told beside the action, which waits meanwhile.
    page.get_by_label("Channel that CR_45 goes with").select_option(label="R1a")
    expect(page.get_by_role("alert")).to_contain_text("same channel")
    expect(page.get_by_role("button", name="No run can be made yet")).to_be_disabled()
    page.get_by_label("Channel that CR_45 goes with").select_option(label="R1b")
    page.get_by_role("button", name="Make the run").click()
    expect(page).to_have_url(re.compile(r"derive\?run="))


def test_the_fork_from_nothing_to_a_pdf_with_its_prediction(empty_house, rig):
    page = empty_house
    add_setup(page)
    stage(page, "Wire")
    find_devices(page, rig)
    wire(page)
    expect(page.get_by_text("Fork bench linked")).to_be_visible()
    find_faults(page)

    stage(page, "Calibrate")
    page.get_by_role("button", name="Zero 8 channels").click()
    expect(page.get_by_text("all zeroed").first).to_be_visible()

    stage(page, "Record")
    peak = page.get_by_label("Peak")
    peak.fill("2400")
    peak.press("Enter")
    expect(peak).to_have_value("2400")
    page.get_by_role("button", name="Start loading").click()
    expect(page.get_by_label("State")).to_contain_text("Recording")
    expect(page.get_by_label("State")).to_contain_text("kept")

    stage(page, "Derive")
    picture = page.get_by_role("img", name=re.compile("First principal strain"))
    expect(picture).to_be_visible()
    import_file(page)
    expect(picture).to_be_visible()
    rows = page.get_by_label("Results").get_by_role("row")
    expect(rows.filter(has_text="fk12_crown_r4")).to_contain_text("969.")
    expect(rows.filter(has_text="Part 1 run 1")).to_contain_text("100")

    page.get_by_role("radio", name="Over time").click()
    page.get_by_label("Lay another run beside it").select_option(label="Part 1 run 1")
    expect(page.get_by_role("button", name="Take Part 1 run 1 away")).to_be_visible()
    page.get_by_label("Runs").get_by_role("button", name=re.compile("Part 1 run 1")).click()
    expect(page.get_by_label("Curves")).to_contain_text("Part 1 run 1")
    page.get_by_role("button", name=re.compile("into a report")).click()
    page.get_by_role("button", name="Make the PDF").click()
    expect(page.get_by_role("img", name=re.compile("Page 1"))).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Save the PDF").click()
    content = io.BytesIO(download.value.path().read_bytes())
    text = " ".join(p.extract_text() for p in PdfReader(content).pages)
    assert "Front fork FK-12" in text and "rosette" in text.lower()
