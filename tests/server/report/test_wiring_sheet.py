"""The wiring sheet: made by the worker, of the setup as it stands."""

import io

import pytest
from pypdf import PdfReader
from yoke_server.bench.services import add_device
from yoke_server.report.wiring_sheet.services import make
from yoke_server.sensors.models import Sensor
from yoke_server.setups.models import new_key

JSON = "application/json"


def text_of(answer):
    assert answer.status_code == 200, answer.content
    pages = PdfReader(io.BytesIO(answer.content)).pages
    return "".join("".join(p.extract_text().split()) for p in pages)  # lines break anywhere


@pytest.mark.django_db(transaction=True)
def test_the_sheet_says_which_core_goes_to_which_pin(setup, as_role):
    reader, path = as_role("reviewer"), f"/api/setups/{setup.pk}/wiring-sheet"
    assert reader.get(path).status_code == 404
    assert reader.get(f"{path}.pdf").json()["hint"] == "Make it first."
    ordered = reader.post(path, {}, content_type=JSON)
    assert (ordered.status_code, ordered.json()["made_at"]) == (202, None)
    make(setup.pk)  # what the worker does
    state = reader.get(path).json()
    assert (state["version"], state["problem"]) == (setup.version, "")
    text = text_of(reader.get(f"{path}.pdf"))
    for words in (
        "A1.3 SG1",
        "lot 0817-1",
        "5 green completion",
        "4 white signal −",
        "quarter, 3 cores",
        "350 Ω, completed with 350 Ω",
        "6 m, 0.77 Ω a core, 0.22% of the resistance",
        "not checked yet",
        "A2.1 SG2",
    ):
        assert "".join(words.split()) in text, words


@pytest.mark.django_db(transaction=True)
def test_a_long_sheet_is_laid_out_in_parts(setup, as_role, monkeypatch):
    """Each of some devices, which its pages name at their foot; nothing is left out."""
    told = []
    monkeypatch.setattr("yoke_server.report.pdf.goes_on", lambda: told.append(1))
    first = setup.channels.get(name="SG1")
    for n in range(3, 9):
        device = add_device(setup.bench, f"A{n}", "bridge amplifier", host="10.0.0.1", port=n)
        first.pk, first.key, first.name = None, new_key(), f"G{n}"
        first.input = device.inputs.first()
        first.save()
    client, path = as_role("technician"), f"/api/setups/{setup.pk}/wiring-sheet"
    assert client.post(path, {}, content_type=JSON).status_code == 202
    make(setup.pk)
    text = text_of(client.get(f"{path}.pdf"))
    for words in (
        "devices A1 to A4, page 1 of",
        "devices A5 to A8, page 1 of",
        *(f"A{n}.1 G{n}" for n in range(3, 9)),
    ):
        assert "".join(words.split()) in text, words
    assert len(told) == 2


@pytest.mark.django_db(transaction=True)
def test_a_text_in_the_library_stays_a_text_on_the_sheet(setup, as_role):
    Sensor.objects.filter(serial="LC-2207").update(name="<img src=file:///etc/hostname>")
    make_first = as_role("technician").post(
        f"/api/setups/{setup.pk}/wiring-sheet", {}, content_type=JSON
    )
    assert make_first.status_code == 202
    make(setup.pk)
    answer = as_role("technician").get(f"/api/setups/{setup.pk}/wiring-sheet.pdf")
    assert "<imgsrc=file:///etc/hostname>" in text_of(answer)


@pytest.mark.django_db(transaction=True)
def test_a_sheet_of_one_input_shows_it_alone_beside_that_of_the_bench(setup, as_role):
    client, path = as_role("technician"), f"/api/setups/{setup.pk}/wiring-sheet"
    key = setup.channels.get(name="SG1").key
    client.post(path, {}, content_type=JSON)
    make(setup.pk)
    assert client.post(f"{path}?channel={key}", {}, content_type=JSON).status_code == 202
    assert client.get(path).json()["made_at"]  # that of the bench stays
    make(setup.pk, key)
    alone = text_of(client.get(f"{path}.pdf?channel={key}"))
    assert "A1.3SG1" in alone
    assert "A1.1F" not in alone
    assert client.post(f"{path}?channel=nobody", {}, content_type=JSON).status_code == 404
