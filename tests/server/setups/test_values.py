"""What people may send: every value is bounded, whatever is refused names its field."""

import json

import pytest
from yoke_server.ledger.models import Entry

from tests import recorded
from tests.problems import code_of
from tests.specs import conditioning, gauge, quarter, rated, two_points

JSON = "application/json"
BIG = 10**400
SMALLEST = 5e-324


def send(client, method, path, body):
    text = body if isinstance(body, str) else json.dumps(body)
    return getattr(client, method)(path, text, content_type=JSON)


def refused(answer, field):
    assert answer.status_code == 422, answer.content
    assert answer["Content-Type"] == "application/problem+json"
    problem = answer.json()
    assert problem["field"] == field
    assert problem["title"].endswith(".")
    assert problem["hint"]
    return problem


@pytest.fixture
def client(as_role):
    return as_role("engineer")


@pytest.fixture
def row(setup):
    return setup.channels.get(name="SG1")


def flat(**sizes):
    known = {"kind": "flat", "width_m": 12.5e-3, "thickness_m": 3e-3, "gauge_length_m": 50e-3}
    return known | sizes


@pytest.mark.parametrize(
    ("path", "body", "field"),
    [
        ("", {"unit": "9**9**9"}, "unit"),
        ("", {"unit": "kN"}, "unit"),  # of another dimension
        ("", conditioning(excitation_v=7.0), "excitation_v"),
        ("", conditioning(range_mv_v=12.0), "range_mv_v"),
        ("", {"decimals": 2.5}, "decimals"),
        ("", {"decimals": True}, "decimals"),
        ("", {"decimals": "2"}, "decimals"),
        ("", quarter(lead_length_m=-1.0), "wiring.lead_length_m"),
        ("", {"name": None}, "name"),
        ("", {"name": "x" * 31}, "name"),
        ("", {"name": " \t "}, "name"),
        ("", {"name": "a\nb"}, "name"),
        ("", {"name": "a\u202eb"}, "name"),
        ("", {"name": "a\u200bb"}, "name"),
        ("", {"name": "a\u2028b"}, "name"),
        ("", '{"name": "\\ud800"}', "name"),
        ("", {"colour": "red"}, "colour"),
        ("/scaling", gauge("2"), "scaling.gauge_factor"),
        ("/scaling", gauge(True), "scaling.gauge_factor"),
        ("/scaling", gauge(SMALLEST), "scaling.gauge_factor"),
        ("/scaling", gauge(BIG), "scaling.gauge_factor"),
        ("/scaling", '{"scaling": {"kind": "gauge", "gauge_factor": NaN}}', "scaling.gauge_factor"),
        (
            "/scaling",
            '{"scaling": {"kind": "gauge", "gauge_factor": 1e999}}',
            "scaling.gauge_factor",
        ),
        ("/scaling", rated(capacity=1e308), "scaling.capacity"),
        ("/scaling", rated(1e300), "scaling.rated_output"),
        ("/scaling", gauge(2.0, poisson_ratio=0.6), "scaling.poisson_ratio"),
        ("/scaling", two_points(0.0, 1e300, 1e-3, 5.0), "scaling.value_1"),
        ("/scaling", {"polarity": "backwards"}, "polarity"),
    ],
    ids=str,
)
def test_a_channel_takes_only_what_it_can_be(client, row, path, body, field):
    refused(send(client, "patch", f"/api/channels/{row.pk}{path}", body), field)


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"piece": flat(gauge_length_m=1e200)}, "piece.gauge_length_m"),
        ({"piece": flat(gauge_length_m=1e-5)}, "piece.gauge_length_m"),
        ({"piece": flat(width_m=SMALLEST)}, "piece.width_m"),
        ({"piece": flat(thickness_m=0)}, "piece.thickness_m"),
        ({"specimen": ["C1"]}, "specimen"),
        ({"stops": [{"kind": "cycles", "cycles": 0}]}, "stops.0.cycles"),
        ({"stops": [{"kind": "motion_end"}] * 13}, "stops"),
        ([], "body"),
        ("null", "body"),
        ("7", "body"),
    ],
    ids=str,
)
def test_a_setup_takes_only_what_it_can_be(client, setup, body, field):
    refused(send(client, "patch", f"/api/setups/{setup.pk}", body), field)


@pytest.mark.parametrize(
    ("body", "title"),
    [
        (quarter(lead_length_m=9000.0), "Lead length must be at most 500 m."),
        (quarter(resistance_ohm=0.0), "Resistance must be at least 1 Ω."),
        (conditioning(7.0), "Excitation cannot be 7: it is one of 1, 2.5, 5."),
        ({"decimals": 9}, "Decimals must be at most 6."),
        ({"colour": "red"}, "Colour is not known here."),
    ],
    ids=str,
)
def test_a_person_reads_the_fields_name_and_its_unit(client, row, body, title):
    answer = send(client, "patch", f"/api/channels/{row.pk}", body)
    assert answer.json()["title"] == title


def test_a_value_in_a_list_is_named_by_its_place(client, setup):
    url = f"/api/setups/{setup.pk}/channels"
    body = {"channels": [{"id": 1}, {"id": 2, "decimals": "5"}]}
    refused(send(client, "patch", url, body), "channels.1.decimals")
    refused(
        send(client, "post", f"/api/setups/{setup.pk}/zero", {"channels": [1, "2"]}), "channels.1"
    )


@pytest.mark.parametrize("body", ["{", "\xff", "[" * 100_000], ids=["open", "bytes", "deep"])
def test_what_is_no_json_is_told_so(client, setup, body):
    data = body.encode("latin-1")
    answer = client.patch(f"/api/setups/{setup.pk}", data, content_type=JSON)
    assert answer.status_code in (400, 422)
    assert answer["Content-Type"] == "application/problem+json"
    assert answer.json()["hint"]


def test_text_is_tidied(client, setup):
    # e and a combining accent become one character; white space around goes
    send(client, "patch", f"/api/setups/{setup.pk}", {"specimen": "  Re\u0301sistance  "})
    setup.refresh_from_db()
    assert setup.specimen == "R\u00e9sistance"


def test_a_change_that_changes_nothing_writes_nothing(client, setup, row):
    before = Entry.objects.count()
    send(client, "patch", f"/api/setups/{setup.pk}", {"specimen": setup.specimen})
    send(client, "patch", f"/api/channels/{row.pk}", conditioning(range_mv_v=40.0))
    send(client, "patch", f"/api/channels/{row.pk}/scaling", gauge(2.08, poisson_ratio=0.3))
    send(client, "post", f"/api/benches/{setup.bench_id}/yoke", {})
    send(client, "post", f"/api/benches/{setup.bench_id}/yoke", {})
    setup.refresh_from_db()
    assert Entry.objects.count() == before + 1  # the yoke, once


def test_a_kind_of_scaling_must_fit_and_be_known(client, row):
    url = f"/api/channels/{row.pk}/scaling"
    span = {"scaling": {"kind": "loop_span", "at_4_ma": 0.0, "at_20_ma": 1.0}}
    problem = refused(send(client, "patch", url, span), "scaling")
    assert problem["title"] == "A bridge cannot be scaled by loop span."
    refused(send(client, "patch", url, {"scaling": {"kind": "magic"}}), "scaling")
    refused(send(client, "patch", url, {"scaling": {"kind": "gauge"}}), "scaling.gauge_factor")
    fixed = {"conditioning": {"kind": "fixed"}}
    refused(send(client, "patch", f"/api/channels/{row.pk}", fixed), "conditioning")


def test_two_points_too_close_give_no_line(client, setup):
    url = f"/api/channels/{setup.channels.get(name='F').pk}/scaling"
    body = two_points(1e-3, 0.0, 1e-3 + 2e-19, 1e9)
    refused(send(client, "patch", url, body), "signal_2")


def test_a_certificate_may_state_a_negative_output(client, setup):
    url = f"/api/channels/{setup.channels.get(name='F').pk}/scaling"
    answer = send(client, "patch", url, rated(-2e-3)).json()
    assert answer["channels"][0]["per_signal"] == pytest.approx(-25e3 / 2e-3)
    refused(send(client, "patch", url, rated(0.0)), "rated_output")


@pytest.mark.parametrize("number", [0, -1, 2**63, 10**30, "x", "1e3"])
def test_a_number_of_a_thing_is_one_that_can_be(client, setup, number):
    answer = client.get(f"/api/setups/{number}")
    assert answer.status_code == 422
    assert answer.json()["field"] == "setup_id"


@pytest.mark.parametrize(
    ("window", "field"),
    [
        ("from_s=5&to_s=2", "to_s"),
        ("from_s=1e300", "from_s"),
        ("from_s=nan", "from_s"),
        ("from_s=100&to_s=200", "from_s"),
        ("from_s=-9&to_s=-1", "from_s"),
        ("pixels=10000000", "pixels"),
    ],
)
def test_a_window_lies_in_order_inside_its_run(client, setup, window, field):
    run = recorded.record(setup, [recorded.block(i) for i in range(30)])
    key = setup.channels.first().key
    url = f"/api/runs/{run.pk}/view?channel={key}"
    assert client.get(url).status_code == 200
    assert client.get(f"{url}&from_s=0&to_s=2").status_code == 200
    refused(client.get(f"{url}&{window}"), field)


def test_a_correction_while_recording_needs_a_reason(client, setup):
    run = recorded.begin(setup)
    url = f"/api/runs/{run.pk}"
    refused(send(client, "patch", url, {"piece": flat(width_m=0.01)}), "reason")
    assert send(client, "patch", url, {"notes": "slipped a little"}).status_code == 200
    body = {"piece": flat(width_m=0.01), "reason": "misread the calliper"}
    assert send(client, "patch", url, body).json()["piece"]["width_m"] == 0.01
    assert run.corrections.get().reason == "misread the calliper"


def test_an_engineers_scaling_stays_with_the_sensor(as_role, setup, row):
    engineer, technician = as_role("engineer"), as_role("technician")
    send(engineer, "patch", f"/api/channels/{row.pk}/scaling", gauge(2.11))
    assert technician.delete(f"/api/channels/{row.pk}").status_code == 204
    body = {"input_id": row.input_id, "sensor_id": row.sensor_id, "name": "SG1"}
    wired = send(technician, "post", f"/api/setups/{setup.pk}/channels", body).json()
    assert (
        next(c for c in wired["channels"] if c["name"] == "SG1")["scaling"]["gauge_factor"] == 2.11
    )
    assert wired["undo"].endswith("with its earlier scaling")


def test_what_a_bench_in_use_measures_is_its_drivers(as_role, setup, row):
    driver, other = as_role("engineer"), as_role("technician")
    send(driver, "post", f"/api/benches/{setup.bench_id}/yoke", {})
    url = f"/api/channels/{row.pk}"
    for method, path, body in [
        ("patch", url, conditioning(2.5)),
        (
            "patch",
            f"/api/setups/{setup.pk}/channels",
            {"channels": [{"id": row.pk, **conditioning()}]},
        ),
        ("delete", url, {}),
    ]:
        answer = send(other, method, path, body)
        assert (answer.status_code, code_of(answer) == "yoke-needed") == (
            409,
            True,
        )
    assert send(other, "patch", url, {"decimals": 2}).status_code == 200  # how it is shown is not
    assert send(driver, "patch", url, conditioning(2.5)).status_code == 200
    send(driver, "patch", url, conditioning())
    assert send(other, "post", f"/api/setups/{setup.pk}/undo", {}).status_code == 409


def test_six_fields_at_once_are_undone_at_once(client, setup):
    body = {
        "name": "Tension, slow",
        "run_name_pattern": "{specimen}-{number}",
        "specimen": "C9",
        "piece": flat(width_m=0.012),
        "stops": [{"kind": "time", "seconds": 3.0}],
        "motion": {"kind": "ramp", "speed_m_s": 1e-4, "travel_limit_m": 0.01},
    }
    before = {name: getattr(setup, name) for name in body}
    assert send(client, "patch", f"/api/setups/{setup.pk}", body).status_code == 200
    assert send(client, "post", f"/api/setups/{setup.pk}/undo", {}).status_code == 200
    setup.refresh_from_db()
    assert {name: getattr(setup, name) for name in body} == before
