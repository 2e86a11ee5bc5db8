"""The sign of a channel tested at the part, and what an old test is."""

import pytest
from yoke_server.bench.services import take_yoke
from yoke_server.wire.models import SignTest

JSON = "application/json"


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def sign_of(client, setup, name, positive, moved, code=200, deviation=0.0):
    row = setup.channels.get(name=name)
    body = {"positive": positive, "polarity": "as wired", "moved": moved, "deviation": deviation}
    answer = client.post(f"/api/channels/{row.pk}/sign-test", body, content_type=JSON)
    assert answer.status_code == code, answer.content
    found = answer.json()
    if code != 200:
        return found
    return next(c for c in found["channels"] if c["name"] == name)["sign"]


def test_what_was_done_and_which_way_it_went_make_the_verdict(client, setup):
    for positive, moved, well in [(1, 5.0, 1), (0, -5.0, 1), (1, -5.0, 0), (0, 5.0, 0)]:
        sign = sign_of(client, setup, "F", bool(positive), moved)
        assert sign["test"]["passed"] is bool(well)
        assert not sign["test"]["old"]
    assert (sign["positive"], sign["negative"]) == ("Pulled", "Pressed")
    assert SignTest.objects.count() == 4  # added, never overwritten


def test_a_test_of_another_wiring_or_sign_is_an_old_one(client, setup, engineer):
    take_yoke(engineer, setup.bench_id)
    assert not sign_of(client, setup, "SG1", True, 5e-6)["test"]["old"]
    row = setup.channels.get(name="SG1")
    answer = client.patch(f"/api/channels/{row.pk}/scaling", {"polarity": "turned"}, JSON)
    if answer.status_code == 409:  # the yoke is another browser's
        client.post(
            f"/api/benches/{setup.bench_id}/yoke", {"reason": "my bench"}, content_type=JSON
        )
        answer = client.patch(f"/api/channels/{row.pk}/scaling", {"polarity": "turned"}, JSON)
    sign = next(c for c in answer.json()["channels"] if c["name"] == "SG1")["sign"]
    assert sign["test"]["old"]
    # Somebody who still watched it as it was tests nothing of what stands now.
    problem = sign_of(client, setup, "SG1", True, 5e-6, 409)
    assert problem["title"] == "SG1 was turned meanwhile."


def test_the_cores_that_turn_the_sign_are_named_where_there_are_any(client, setup):
    full = sign_of(client, setup, "F", True, 5.0)
    assert full["swap"] == "white and green, pins 3 and 4"
    assert sign_of(client, setup, "SG1", True, 1e-6)["swap"] == ""  # of a quarter bridge none do


@pytest.mark.parametrize(
    ("moved", "deviation", "counts"),
    [(0.0, 0.0, 0), (3.0, 0.0, 0), (-3.1, 0.0, 1), (8.0, 1.0, 0), (8.1, 1.0, 1)],
)
def test_only_a_clear_move_tells_something(client, setup, moved, deviation, counts):
    """F is shown to the newton: three of them, and eight deviations, are no more than noise."""
    if counts:
        assert sign_of(client, setup, "F", True, moved, 200, deviation)["test"]["moved"] == moved
    else:
        problem = sign_of(client, setup, "F", True, moved, 422, deviation)
        assert (problem["title"], problem["field"]) == ("F did not clearly move.", "moved")
