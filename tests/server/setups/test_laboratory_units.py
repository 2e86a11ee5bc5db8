"""Units of the laboratory's own: defined by a formula, shown everywhere, stored data untouched."""

import pytest
from yoke_server.common import units
from yoke_server.common.units import from_si, to_si
from yoke_server.exchange.importing.guess import ColumnChoice, known_unit, quantity_of
from yoke_server.exchange.importing.times import why_not
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.setups.formulas import computed_of, unit_named
from yoke_server.setups.freezing import freeze_channels

pytestmark = pytest.mark.django_db
JSON = "application/json"
POUND = {"name": "lbf", "quantity": "force", "definition": "4.4482216152605 N"}


@pytest.fixture(autouse=True)
def forget():
    """What a test defines goes with its transaction."""
    yield
    units._own.clear()


def define(client, **fields):
    return client.post("/api/units", POUND | fields, JSON)


def test_a_channel_is_shown_in_it_and_its_readings_stay(as_role, setup):
    client = as_role("engineer")
    assert define(client).status_code == 201
    listed = {u["name"]: u for u in client.get("/api/units").json()}
    assert listed["lbf"]["factor"] == pytest.approx(4.4482216152605)
    row = setup.channels.get(name="F")
    answer = client.patch(f"/api/channels/{row.pk}", {"unit": "lbf"}, JSON)
    assert answer.status_code == 200, answer.content
    shown = next(c for c in answer.json()["channels"] if c["name"] == "F")
    assert shown["decimals"] == 1  # which suit a pound as three do a kilonewton
    assert (shown["unit"], shown["scaling"]) == ("lbf", row.scaling.model_dump())
    assert from_si(to_si(3.0, "lbf"), "N") == pytest.approx(13.3446648)
    # A formula and the library know it too.
    made = {"name": "twice", "formula": "F + 2 lbf"}
    answer = client.post(f"/api/setups/{setup.pk}/computed", made, JSON)
    assert answer.status_code == 201, answer.content


def test_a_file_may_be_in_it(as_role, setup):
    define(as_role("engineer"))
    column = ColumnChoice(place=0, take=True, name="F", quantity="force", unit="lbf")
    assert why_not([column], []) == ""
    assert (known_unit("lbf"), quantity_of("lbf")) == ("lbf", "force")


def test_another_process_learns_it_where_it_meets_it(as_role, setup):
    define(as_role("engineer"))
    units._own.clear()  # as a recorder that began before
    assert units.unit("lbf").factor == pytest.approx(4.4482216152605)
    units._own.clear()
    assert unit_named("lbf").factor == pytest.approx(4.4482216152605)
    units._own.clear()
    formula = ComputedChannel(key="twice", name="twice", formula="F + 2 lbf", unit="kN", decimals=3)
    (found,) = computed_of(freeze_channels(setup), [formula])
    assert found.error is None


def test_a_definition_may_be_a_formula(as_role, setup):
    client = as_role("engineer")
    made = define(client, name="shoe", definition="2 * (1.2 kN - 200 N) / 4")
    assert made.json()["factor"] == pytest.approx(500.0)
    assert define(client, name="boot", definition="3 * 1 shoe").json()["factor"] == 1500.0


@pytest.mark.parametrize(
    ("fields", "field", "said"),
    [
        ({"definition": "25.4 mm"}, "definition", "no unit of force"),
        ({"definition": "4.45"}, "definition", "no unit of force"),
        ({"definition": "-4 N"}, "definition", "above zero"),
        ({"definition": "4 N / 0"}, "definition", "above zero"),
        ({"definition": "4 N +"}, "definition", ""),
        ({"definition": "4 parsec"}, "definition", "parsec"),
        ({"name": "kN"}, "name", "already"),
        ({"name": "9er"}, "name", "no name of a unit"),
        ({"quantity": "temperature", "definition": "2 K"}, "quantity", "temperature"),
        ({"quantity": "luck"}, "quantity", "luck"),
    ],
)
def test_what_is_no_unit_is_refused_with_the_reason(as_role, setup, fields, field, said):
    answer = define(as_role("engineer"), **fields)
    assert (answer.status_code, answer.json()["field"]) == (422, field), answer.content
    assert said in answer.json()["title"]
    assert "lbf" not in {u["name"] for u in as_role("engineer").get("/api/units").json()}


def test_a_unit_is_defined_once(as_role, setup):
    client = as_role("engineer")
    define(client)
    assert define(client, definition="5 N").json()["field"] == "name"
    assert units.unit("lbf").factor == pytest.approx(4.4482216152605)
