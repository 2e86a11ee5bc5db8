"""Display units, decimals and columns of each person."""

import pytest

pytestmark = pytest.mark.django_db
JSON = "application/json"
URL = "/api/session/preferences"
MINE = {"display": {}, "columns": {}, "mails": False, "email": ""}


def test_each_person_has_their_own_and_takes_them_back(as_role, setup):
    engineer = as_role("engineer")
    newton = {"unit": "N", "decimals": 0}
    answer = engineer.patch(URL, {"display": {"force": newton}}, JSON)
    assert answer.json() == MINE | {"display": {"force": newton}, "columns": {}}
    engineer.patch(URL, {"columns": {"calibrate": ["Live", "Noise"]}}, JSON)
    assert engineer.get(URL).json()["display"] == {"force": newton}
    assert as_role("reviewer").get(URL).json() == MINE
    taken_back = engineer.patch(URL, {"display": {"force": None}}, JSON)
    assert taken_back.json() == MINE | {"columns": {"calibrate": ["Live", "Noise"]}}


def test_a_unit_brings_decimals_that_suit_it(as_role, setup):
    body = {"display": {"force": {"unit": "N"}, "stress": {"unit": "GPa"}}}
    shown = as_role("reviewer").patch(URL, body, JSON).json()["display"]
    assert shown["force"] == {"unit": "N", "decimals": 0}
    assert shown["stress"]["unit"] == "GPa"


def test_the_setup_and_its_versions_know_nothing_of_them(as_role, setup):
    client = as_role("engineer")
    before = client.get(f"/api/setups/{setup.pk}").json()
    client.patch(URL, {"display": {"force": {"unit": "N", "decimals": 0}}}, JSON)
    assert client.get(f"/api/setups/{setup.pk}").json() == before


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"display": {"force": {"unit": "bar", "decimals": 1}}}, "display"),
        ({"display": {"luck": {"unit": "N", "decimals": 1}}}, "display"),
        ({"display": {"force": {"unit": "N", "decimals": 9}}}, "display.force.decimals"),
        ({"columns": {"calibrate": ["x" * 50]}}, "columns.calibrate.0"),
    ],
)
def test_what_cannot_be_shown_is_refused(as_role, setup, body, field):
    client = as_role("engineer")
    answer = client.patch(URL, body, JSON)
    assert (answer.status_code, answer.json()["field"]) == (422, field)
    assert client.get(URL).json() == MINE
