"""Wire in the real interface: gauges pasted from a spreadsheet, filled down, faults found."""

import re

import pytest
from playwright.sync_api import Page, expect
from yoke_server.kinds.inputs.digital import DigitalOutput
from yoke_server.sensors.models import Sensor
from yoke_server.setups.models import Channel

from tests.browser.chromium import found_at, have_it_be

pytestmark = pytest.mark.django_db(transaction=True)

PASTE = """(text) => {
  const data = new DataTransfer()
  data.setData('text/plain', text)
  const options = { clipboardData: data, bubbles: true, cancelable: true }
  document.querySelector('[role=grid]').dispatchEvent(new ClipboardEvent('paste', options))
}"""
FAULTS = [  # channel, what the stand-in is told, what the check must say
    ("F", "brown and blue swapped", "Brown core and blue core are swapped, pins 1 and 6"),
    ("e clip", "grey core broken", "Grey core is broken between pin 5 and the bridge"),
    ("SG1", "green core broken", "Green core is broken between pin 5 and the grid"),
    ("SG2", "insulation 20 MΩ", "Insulation is poor, 20"),
]


def row(page: Page, label: str):
    return page.get_by_role("row").filter(has_text=re.compile(rf"^{re.escape(label)}"))


def cell(page: Page, label: str, column: str):
    return row(page, label).locator(f"[id$=' {column}']")


def pasted(first: int, count: int) -> str:
    """Name, serial, two columns that are read only, resistance, excitation, range, lead."""
    numbers = range(first, first + count)
    return "\n".join(f"G{n}\tlot 0818-{n:02}\t\t\t350\t2,5\t8\t6,00" for n in numbers)


def test_twelve_gauges_are_pasted_and_five_faults_are_found(
    gauges, setup, application, open_browser
):
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/wire?view=table")
    page.get_by_role("button", name="Take the yoke").first.click()
    cell(page, "A1.4", "name").click()
    page.evaluate(PASTE, pasted(1, 5))
    expect(page.get_by_text("10 decimal commas turned")).to_be_visible()
    cell(page, "A2.2", "name").click()
    page.evaluate(PASTE, pasted(6, 7))
    expect(cell(page, "A2.8", "name")).to_have_text("G12")
    expect(cell(page, "A2.8", "lead")).to_have_text("6.00")
    assert Channel.objects.filter(setup=setup, name__startswith="G").count() == 12

    # A letter for a figure is not taken, and says so where it stands.
    cell(page, "A2.8", "lead").click()
    page.keyboard.type("6,O")
    page.keyboard.press("Enter")
    expect(row(page, "A2.8")).to_contain_text("Letter O is no figure; 6 kept")

    # Filling down shows first what it would do; one undo takes it back.
    cell(page, "A2.6", "excitation").click()
    page.keyboard.type("5")
    page.keyboard.press("Enter")
    expect(cell(page, "A2.6", "excitation")).to_have_text("5.0 V")
    cell(page, "A2.6", "excitation").click()
    cell(page, "A2.8", "excitation").click(modifiers=["Shift"])
    page.keyboard.press("Control+d")
    expect(page.get_by_role("dialog", name="Fill down")).to_contain_text("2 cells change")
    page.keyboard.press("Enter")
    expect(cell(page, "A2.8", "excitation")).to_have_text("5.0 V")
    page.keyboard.press("Control+z")
    expect(cell(page, "A2.8", "excitation")).to_have_text("2.5 V")

    page.get_by_role("radio", name="Drawing").click()
    for name, fault, _ in FAULTS:
        page.get_by_role("button", name=re.compile(rf" {name}(?!\d)")).first.click()
        have_it_be(page, fault)
    page.get_by_role("button", name="Check 16 inputs").click()
    expect(page.get_by_role("alert").filter(has_text="Insulation is poor")).to_be_visible()
    page.get_by_role("radio", name="Table").click()
    for name, _, words in FAULTS:
        found = page.get_by_role("row").filter(has=page.get_by_text(name, exact=True))
        expect(found).to_contain_text(words)
    expect(row(page, "A1.4")).to_contain_text("all well")
    expect(row(page, "A1.5")).to_contain_text("Nothing is connected")
    expect(row(page, "A2.2")).to_contain_text("It reads like a full bridge, 6-wire")
    page.get_by_role("radio", name="Drawing").click()
    page.get_by_role("button", name=re.compile(r" SG1(?!\d)")).first.click()
    expect(page.get_by_role("img", name="broken")).to_be_visible()
    expect(page.get_by_text("15 to mend")).to_be_visible()


def test_an_instrument_is_added_certified_and_wired_from_the_library(
    setup, application, open_browser
):
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/wire?view=library")
    page.get_by_role("button", name="New instrument").click()
    form = page.get_by_role("form", name="New instrument")
    form.get_by_label("Kind").select_option("torque sensor")
    for label, text in (
        ("Name", "Torque sensor 200 N m"),
        ("Serial", "TQ-0415"),
        ("Cores", "6"),
        ("Resistance, Ω", "350"),
        ("Rated output, mV/V", "1,5002"),
        ("Capacity, N m", "200"),
    ):
        form.get_by_label(label, exact=True).fill(text)
    form.get_by_label("Circuit").select_option("full torsion")
    form.get_by_label("Cores", exact=True).fill("3")
    form.get_by_role("button", name="Add it").click()
    expect(form.get_by_role("alert")).to_contain_text("needs at least 4 wires, not 3")
    form.get_by_label("Cores", exact=True).fill("6")
    form.get_by_role("button", name="Add it").click()
    panel = page.get_by_role("region", name="Instrument", exact=True)
    expect(panel.get_by_role("heading", name="TQ-0415")).to_be_visible()

    panel.get_by_role("button", name="New certificate").click()
    paper = page.get_by_role("form", name="New certificate")
    paper.get_by_label("Number").fill("26-2890")
    paper.get_by_label("Calibrated on").fill("2026-01-15")
    paper.get_by_label("Due on").fill("2026-02-15")
    paper.get_by_role("button", name="Add it").click()
    expect(panel.get_by_role("heading", name="Certificate 26-2890")).to_be_visible()
    file = {"name": "TQ-0415.pdf", "mimeType": "application/pdf", "buffer": b"no PDF"}
    panel.get_by_label("Attach its PDF").set_input_files(file)
    expect(page.get_by_text("TQ-0415.pdf is no PDF.")).to_be_visible()
    file["buffer"] = b"%PDF-1.7 " + bytes(400_000)
    panel.get_by_label("Attach its PDF").set_input_files(file)
    expect(panel.get_by_role("link", name="TQ-0415.pdf")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Overdue")).click()
    expect(page.get_by_role("row", name=re.compile("TQ-0415"))).to_contain_text("overdue")

    panel.get_by_label("Colour of pin 3").select_option("violet")
    panel.get_by_label("Input").select_option(label="A1.5")
    panel.get_by_role("button", name="Wire to A1.5").click()
    expect(panel).to_contain_text("wired as M in this setup")
    page.get_by_role("radio", name="Drawing").click()
    page.get_by_role("button", name=re.compile("^1.5 ")).click()
    expect(page.get_by_role("img", name="Wiring of M")).to_contain_text("violet, S+")

    # A version says what it changed, and an earlier one is brought back.
    page.get_by_role("radio", name="Versions").click()
    expect(page.get_by_role("table")).to_contain_text("A1.5, TQ-0415")
    page.get_by_role("region", name="Versions").get_by_role("button").nth(1).click()
    page.get_by_role("button", name=re.compile("^Bring back version")).click()
    expect(page.get_by_text(re.compile("is in force again, as version"))).to_be_visible()
    assert not Channel.objects.filter(setup=setup, sensor__serial="TQ-0415").exists()


def inspector(page: Page):
    return page.get_by_role("region", name="Settings")


def choose(page: Page, name: str) -> None:
    page.get_by_role("button", name=re.compile(rf" {name}(?!\w)")).first.click()


def test_another_make_a_sign_and_a_sensor_that_moved(setup, rig, application, open_browser):
    """An indicator found and wired, a sign pressed at the part, a plug that wandered."""
    Sensor.objects.create(
        kind="load cell",
        name="Indicator's own cell",
        serial="WI-41022",
        quantity="force",
        spec=DigitalOutput(),
    )
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/wire?view=devices")
    form = page.get_by_role("form", name="Add a device by its address")
    form.get_by_label("Address").fill("127.0.0.1")
    form.get_by_label("Port").fill("1")
    form.get_by_role("button", name="Test the connection").click()
    expect(form.get_by_role("alert")).to_contain_text("Nothing answers at 127.0.0.1:1")
    page.get_by_role("button", name="Find devices").click()
    found = found_at(page, rig.ports["W1"])
    expect(found).to_contain_text("WI1 weighing indicator")
    found.get_by_role("button", name="Add it as W1").click()
    form.get_by_role("button", name="Test the connection").click()
    expect(form.get_by_role("status")).to_contain_text("WI1 weighing indicator, serial 41022")
    form.get_by_role("button", name="Add it to the bench").click()
    page.get_by_role("button", name=re.compile("^W1")).click()
    device = page.get_by_role("region", name="Device W1")
    expect(device).to_contain_text("Linked")
    expect(device).to_contain_text("41022")

    page.get_by_role("button", name=re.compile("as text$")).click()
    text = page.get_by_label("The bench file")
    text.fill(text.input_value().replace("label: W1", "lable: W1"))
    page.get_by_role("button", name="Show what it changes").click()
    expect(page.get_by_role("alert")).to_contain_text("the key “lable” is not known")
    expect(page.get_by_role("alert")).to_contain_text("Did you mean “label”?")

    page.get_by_role("radio", name="Drawing").click()
    page.get_by_role("button", name=re.compile("^W1.1 ")).click()
    page.get_by_label("Search the sensor library").fill("WI-41022")
    page.get_by_role("button", name=re.compile("WI-41022")).click()
    page.get_by_role("button", name=re.compile("^Wire F2 to input W1.1")).click()
    expect(inspector(page)).to_contain_text("F2")

    page.get_by_role("button", name="Take the yoke", exact=True).click()
    choose(page, "SG1")
    page.get_by_role("button", name="Press here: which way does it go?").click()
    have_it_be(page, "arm 1 three per cent up")
    expect(page.get_by_text(re.compile("^It went up by"))).to_be_visible()
    page.get_by_role("button", name="Compressed it").click()
    expect(inspector(page)).to_contain_text("goes the wrong way")
    expect(inspector(page)).to_contain_text("No exchange of cores turns it")
    page.get_by_role("button", name="Turn SG1").click()
    expect(page.get_by_role("img", name="Wiring of SG1")).to_contain_text("turned")
    expect(inspector(page)).to_contain_text("changed since")

    page.get_by_role("radio", name="Off", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^1.3 SG1"))).to_contain_text("off")

    choose(page, "e clip")
    have_it_be(page, "moved to input 1.4")
    page.get_by_role("button", name="Rescan the plugs").click()
    moved = page.get_by_role("row", name="Plug at 1.4")
    expect(moved).to_contain_text("e clip moved here from 1.2")
    moved.get_by_role("button", name="Move e clip to 1.4").click()
    expect(moved).not_to_contain_text("moved here")
    assert setup.channels.get(name="e clip").input.label == "1.4"
    page.keyboard.press("Control+z")
    expect(page.get_by_text(re.compile("^e clip moved here")).first).to_be_visible()
    page.get_by_role("button", name="Back to the drawing").click()
    expect(page.get_by_role("button", name=re.compile("^1.2 e clip"))).to_be_visible()
