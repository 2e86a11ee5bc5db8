"""The sensor library: instruments as records, certificates, tables in and out."""

import csv
import io
import struct
import zlib
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from openpyxl import Workbook, load_workbook
from PIL import Image
from yoke_server.common.units import UNITS
from yoke_server.kinds.channel_specs import SENSOR_TYPES, SENSORS, connections_of
from yoke_server.sensors.models import Certificate, Sensor
from yoke_server.sensors.record import from_record, to_record

from tests.problems import code_of

JSON = "application/json"
CELL = {
    "kind": "load cell",
    "name": "Load cell 5 kN",
    "serial": "LC-1544",
    "circuit": "full axial",
    "wires": "6",
    "resistance": "350",
    "rated_output": "2,0012 mV/V",
    "capacity": "5 kN",
    "cores": "1 brown, 2 yellow, 3 white, 4 green, 5 grey, 6 blue",
    "place": "shelf 1",
}
PDF = b"%PDF-1.7\n" + bytes(300_000)


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def send(client, method, path, body):
    return getattr(client, method)(f"/api/{path}", body, content_type=JSON)


def added(client, **more):
    answer = send(client, "post", "sensors", {"record": CELL | more})
    assert answer.status_code == 201, answer.content
    return answer.json()


def test_an_instrument_is_added_changed_and_taken_out_of_use(client, setup):
    made = added(client)
    assert made["spec"]["rated_output"] == pytest.approx(2.0012e-3)
    assert (made["spec"]["capacity"], made["where"], made["place"]) == (5000.0, "", "shelf 1")
    assert made["cores"][1] == {"colour": "yellow", "pin": 2, "function": "sense +"}
    path = f"sensors/{made['id']}"
    changed = send(client, "patch", path, {"record": {"place": "shelf 2", "capacity": "4500 N"}})
    assert (changed.json()["place"], changed.json()["spec"]["capacity"]) == ("shelf 2", 4500.0)
    assert send(client, "post", f"{path}/retire", {}).json()["retired_at"]
    body = {
        "sensor_id": made["id"],
        "name": "F rod",
        "input_id": setup.bench.devices.get(label="A1").inputs.get(number=5).pk,
    }
    refused = send(client, "post", f"setups/{setup.pk}/channels", body)
    assert (refused.status_code, code_of(refused)) == (409, "out-of-use")
    assert send(client, "post", f"{path}/retire?restore=true", {}).json()["retired_at"] is None
    wired = Sensor.objects.get(serial="LC-2207")
    still = send(client, "post", f"sensors/{wired.pk}/retire", {})
    assert (still.status_code, code_of(still)) == (409, "in-use")


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"serial": "LC-2207"}, "serial", "has LC-2207 already"),
        ({"serial": " "}, "serial", "is missing"),
        ({"kind": "spoon"}, "kind", "“spoon”"),
        ({"resistance": "0"}, "resistance", "at least 1"),
        ({"resistance": "35O"}, "resistance", "letter O is no figure"),
        ({"rated_output": ""}, "rated_output", "nothing in it"),
        ({"wires": "3"}, "wires", "at least 4 wires"),
        ({"circuit": "round"}, "circuit", "no circuit “round”"),
        ({"cores": "1 mauve"}, "cores", "no pin and colour"),
        ({"connection": "Rosette"}, "connection", "“Rosette”"),
        ({"name": "x" * 61}, "name", "more than 60"),
        ({"place": "=1+1"}, "place", "a spreadsheet would compute"),
        ({"capacity": "5 bar"}, "capacity", "letter b is no figure"),
    ],
    ids=lambda v: str(v)[:20],
)
def test_what_an_instrument_cannot_be(client, setup, change, field, words):
    answer = send(client, "post", "sensors", {"record": CELL | change})
    assert (answer.status_code in (409, 422), answer.json()["field"]) == (True, field)
    assert words in answer.json()["title"]
    assert answer.json()["hint"]
    assert not Sensor.objects.filter(serial="LC-1544").exists()


def test_the_newest_certificate_is_in_force_and_its_pdf_is_kept(client, setup, as_role):
    made = added(client)
    path = f"sensors/{made['id']}/certificates"
    for number, day, rated in [
        ("26-0507", "2026-02-09", "2,0013"),
        ("25-0440", "2025-02-11", "2"),
    ]:
        body = {
            "number": number,
            "calibrated_on": day,
            "due_on": "2027-02-09",
            "rated_output": rated,
        }
        found = send(client, "post", path, body)
        assert found.status_code == 201
    found = found.json()
    assert (found["calibrated_on"], found["spec"]["rated_output"]) == ("2026-02-09", 2.0013e-3)
    assert [c["number"] for c in found["certificates"]] == ["25-0440", "26-0507"]
    again = send(client, "post", path, body)
    assert (again.status_code, again.json()["field"]) == (409, "number")
    tomorrow = (datetime.now(UTC) + timedelta(days=1)).date().isoformat()
    for wrong, field in (
        ({"calibrated_on": tomorrow}, "calibrated_on"),
        ({"due_on": "2020-01-01"}, "due_on"),
        ({"rated_output": "2.0O1"}, "rated_output"),
        ({"rated_output": "9000"}, "rated_output"),
    ):
        refused = send(client, "post", path, body | {"number": "x"} | wrong)
        assert (refused.status_code, refused.json()["field"]) == (422, field)
    row = Certificate.objects.get(number="26-0507")

    def put(at, content, name="LC-1544.pdf", who=client):
        url = f"/api/certificates/{row.pk}/file/{at}?name={name}&size={len(PDF)}"
        return who.put(url, content, content_type="application/pdf")

    assert put(0, b"MZ" + PDF[2:9]).json()["title"] == "LC-1544.pdf is no PDF."
    assert put(0, PDF[:150_000], who=as_role("technician")).status_code == 403
    assert put(0, PDF[:150_000]).json()["certificates"][1]["has_file"] is False
    assert client.get(f"/api/certificates/{row.pk}/file").status_code == 404
    assert code_of(put(200_000, PDF[200_000:])) == "out-of-order"
    assert put(150_000, PDF[150_000:]).json()["certificates"][1]["has_file"] is True
    assert put(0, PDF[:9]).status_code == 409  # what was calibrated does not change
    file = client.get(f"/api/certificates/{row.pk}/file")
    assert (file.content, file["Content-Type"]) == (PDF, "application/pdf")
    assert file["Content-Disposition"] == 'attachment; filename="LC-1544.pdf"'


@pytest.mark.parametrize(
    ("change", "taken"),
    [
        ({"rated_output": "2.1"}, False),
        ({"rated_output": ""}, False),
        ({"rated_output": "2.00130"}, True),
        ({"note": "in the drawer"}, True),
        ({"place": "Shed"}, True),
    ],
)
@pytest.mark.parametrize("role", ["technician", "engineer"])
def test_what_a_certificate_states_is_changed_by_a_certificate(
    client, as_role, setup, role, change, taken
):
    made = added(client)
    body = {
        "number": "26-0507",
        "calibrated_on": "2026-02-09",
        "due_on": "2027-02-09",
        "rated_output": "2.0013",
    }
    assert send(client, "post", f"sensors/{made['id']}/certificates", body).status_code == 201
    rows = as_role("engineer").get("/api/library.csv").content
    answer = send(as_role(role), "patch", f"sensors/{made['id']}", {"record": change})
    assert (answer.status_code == 200) == taken, answer.content
    sensor = Sensor.objects.get(pk=made["id"])
    assert (sensor.spec.rated_output, f"{sensor.calibrated_on}") == (2.0013e-3, "2026-02-09")
    if not taken:
        assert (answer.status_code in (409, 422), answer.json()["field"]) == (True, "rated_output")
    table = rows.replace(b"2.0013", b"2.2")
    found = take(as_role(role), table, dry=True)
    (line,) = [one for one in found.json() if one["serial"] == sensor.serial]
    assert (line["outcome"], line["field"]) == ("refused", "rated_output")


@pytest.mark.parametrize(
    ("zone", "status"), [("Pacific/Kiritimati", 201), ("Etc/GMT+12", 422)]
)  # a day of the calendar apart, and more
def test_a_certificate_bears_the_date_of_the_laboratory(client, settings, zone, status):
    settings.LABORATORY_ZONE = ZoneInfo(zone)
    today = datetime.now(ZoneInfo("Pacific/Kiritimati")).date().isoformat()
    body = {"number": "1", "calibrated_on": today, "due_on": None, "rated_output": ""}
    found = send(client, "post", f"sensors/{added(client)['id']}/certificates", body)
    assert found.status_code == status


def picture(form, size=(1600, 900), colour=(200, 30, 60), **more):
    out = io.BytesIO()
    Image.new("RGB", size, colour).save(out, form, **more)
    return out.getvalue()


def test_a_picture_is_kept_small_upright_and_without_what_the_camera_noted(client, as_role, setup):
    sensor = Sensor.objects.get(serial="LC-2207")
    path = f"/api/sensors/{sensor.pk}/picture"

    def put(content, who=client):
        return who.put(path, content, content_type="application/octet-stream")

    noted = Image.Exif()
    noted[0x0112], noted[0x010F] = 6, "Camera of somebody"  # held on its side; its maker
    given = put(picture("JPEG", exif=noted)).json()
    answer = client.get(f"/api/pictures/{given['picture_id']}")
    assert answer["Content-Type"] == "image/jpeg"
    with Image.open(io.BytesIO(answer.content)) as kept:
        assert (kept.format, kept.size, dict(kept.getexif())) == ("JPEG", (450, 800), {})
        assert kept.getpixel((9, 9)) == pytest.approx((200, 30, 60), abs=3)
    other = put(picture("PNG", (40, 30))).json()["picture_id"]
    assert other != given["picture_id"]  # what has been seen once may be shown again unasked
    assert client.get(f"/api/pictures/{given['picture_id']}").status_code == 404
    assert put(picture("PNG", (40, 30)), as_role("reviewer")).status_code == 403
    assert client.get(f"/api/sensors/{sensor.pk}").json()["picture_id"] == other
    assert client.delete(path).json()["picture_id"] is None
    assert client.delete(path).json()["picture_id"] is None


def bomb(side):
    """A tiny file that says it has so many pixels."""
    png = picture("PNG", (9, 9))
    head = b"IHDR" + struct.pack(">II", side, side) + png[24:29]
    return png[:12] + head + struct.pack(">I", zlib.crc32(head)) + png[33:]


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "no picture"),
        (b"%PDF-1.7", "no picture"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'><script>1</script></svg>", "no picture"),
        (picture("JPEG")[:900], "no picture"),
        (picture("PNG")[:60], "no picture"),
        (picture("GIF", (9, 9)), "no picture"),
        (bomb(9000), "9000 x 9000 pixels"),
        (bomb(60_000), "no picture"),
    ],
    ids=["empty", "pdf", "svg", "half a jpeg", "half a png", "gif", "bomb", "larger bomb"],
)
def test_what_is_no_picture_is_refused_and_the_one_before_stays(client, setup, content, words):
    sensor = Sensor.objects.get(serial="LC-2207")
    path = f"/api/sensors/{sensor.pk}/picture"
    before = client.put(path, picture("PNG", (9, 9)), content_type="application/octet-stream")
    answer = client.put(path, content, content_type="application/octet-stream")
    assert (answer.status_code, words in answer.json()["title"]) == (422, True)
    assert (
        client.get(f"/api/sensors/{sensor.pk}").json()["picture_id"] == before.json()["picture_id"]
    )


def take(client, content, dry=False):
    url = f"/api/library/import?dry={'true' if dry else 'false'}"
    return client.post(url, content, content_type="application/octet-stream")


def outcomes(answer):
    assert answer.status_code == 200, answer.content
    return {o["serial"]: o["outcome"] for o in answer.json()}


@pytest.mark.parametrize("form", ["csv", "xlsx"])
def test_the_library_goes_out_and_comes_back_the_same(client, setup, form):
    content = client.get(f"/api/library.{form}").content
    found = outcomes(take(client, content))
    assert len(found) == Sensor.objects.count()
    assert set(found.values()) == {"same"}


def test_a_table_is_taken_whole_after_it_was_looked_at(client, setup):
    head, *rows = csv.reader(
        io.StringIO(client.get("/api/library.csv").content.decode("utf-8-sig"))
    )
    book = Workbook()
    book.active.append(head)
    first = dict(zip(head, rows[0], strict=True)) | {"place": "shelf 9"}
    new = dict.fromkeys(head, "") | CELL
    for line in (first, new):
        book.active.append([line[name] for name in head])
    out = io.BytesIO()
    book.save(out)
    tried = outcomes(take(client, out.getvalue(), dry=True))
    assert tried == {first["serial"]: "changed", "LC-1544": "new"}
    assert not Sensor.objects.filter(serial="LC-1544").exists()
    assert outcomes(take(client, out.getvalue())) == tried
    assert Sensor.objects.get(serial=first["serial"]).place == "shelf 9"
    assert load_workbook(io.BytesIO(client.get("/api/library.xlsx").content)).active.max_row > 2


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"kind,name,serial\nload cell,x,LC-9\nspoon,y,S-1\n", "Line 2, rated_output"),
        (b"kind;name;serial;colour\n", "no column “colour”"),
        (b"kind,name\n", "column serial is missing"),
        (b"", "holds no table"),
        (b"PK\x03\x04 no workbook", "no workbook"),
        (b'kind,name,serial\n"load cell,x', "no table"),
        (bytes(200_000), "more than 192 kB"),
    ],
    ids=["bad cells", "unknown column", "missing column", "empty", "zip", "quote", "large"],
)
def test_a_table_with_something_wrong_leaves_the_library_as_it_was(client, setup, content, words):
    before = Sensor.objects.count()
    answer = take(client, content)
    assert answer.status_code == 422, answer.content
    assert words in answer.json()["title"]
    assert Sensor.objects.count() == before


@pytest.mark.parametrize("kind", SENSOR_TYPES)
def test_each_kind_can_be_written_down_and_read_again(kind):
    texts = {
        "circuit": "half bending",
        "wires": "6",
        "resistance": "350",
        "gauge_factor": "2.08",
        "gauge_factor_tolerance": "1",
        "lead_length": "6",
        "angles": "0 45 90",
        "rated_output": "2",
        "capacity": "10",
        "at_rest": "0.01",
        "at_4_ma": "0",
        "at_20_ma": "100",
        "full_output": "10",
        "nominal": "100",
        "pulses_per_turn": "60",
        "grid_area": "16.8",
        "shown_in": UNITS[SENSOR_TYPES[kind].quantity][0],
    }
    for connection in connections_of(kind):
        sensor = SENSORS[connection]
        given = {"kind": kind, "name": "n", "serial": "s", "connection": sensor.connection}
        given |= {f.name: texts[f.name] for f in sensor.text_fields}
        if connection in ("loop", "platinum", "rosette"):
            given["wires"] = "3"
        read = from_record(given)
        again = from_record(to_record(Sensor(spec=read.spec, **read.values)))
        assert (again.spec, again.values) == (read.spec, read.values)
