"""What happened since one last looked, told on a page and by e-mail."""

import uuid
from datetime import UTC, datetime, timedelta

import pytest
from django.core import mail
from yoke_server.accounts.models import Preferences, User
from yoke_server.record.happenings import since
from yoke_server.record.messages import send_messages
from yoke_server.record.models import Marker, MarkerKind, Segment

from tests.recorded import SECOND, START, begin, stream_of

pytestmark = pytest.mark.django_db
JSON = "application/json"
HOUR = timedelta(hours=1)


def mark(run, seconds, kind, text):
    at = START + round(seconds * SECOND)
    return Marker.objects.create(run=run, key=uuid.uuid4(), at_ns=at, kind=kind, text=text)


def segment(stream, first, seconds, cause):
    return Segment.objects.create(
        stream=stream, first_sample=first, cause=cause, device_ns=0, rate_hz=1000.0,
        bench_ns=START + round(seconds * SECOND), acquisition=1,
    )  # fmt: skip


@pytest.fixture
def weekend(setup):
    """A run that began ten hours ago, tripped nine hours ago, and lost 41 s eight hours ago."""
    run = begin(setup, 1)
    run.started_at = datetime.now(UTC) - 10 * HOUR
    run.save()
    mark(run, 3600, MarkerKind.GUARD, "u axle went above 25 mm to 26 mm: held")
    mark(run, 3700, MarkerKind.PROGRAMME, "")  # says nothing: no more than a place in the programme
    mark(run, 3800, MarkerKind.PERSON, "Cable tied down")
    for label in ("A1", "A1", "A2"):
        stream = stream_of(run, label)
        stream.rule = f"rule {stream.pk}"
        stream.save()
        segment(stream, 0, 0, "start")
        segment(stream, 1000, 1.0, "clock")
        segment(stream, 7_159_000, 7200.0, "gap")
    return run


def told(moment):
    return [(h.sort, h.words) for h in since(moment).happenings]


def test_what_happened_is_told_in_order_and_each_thing_once(weekend):
    found = since(weekend.started_at - HOUR)
    assert [(h.sort, h.words) for h in found.happenings] == [
        ("begins", ""),
        ("guard", "u axle went above 25 mm to 26 mm: held"),
        ("marker", "Cable tied down"),
        ("gap", "41 s of A1 are missing"),
        ("gap", "41 s of A2 are missing"),
    ]
    assert found.counts == {"begins": 1, "guard": 1, "marker": 1, "gap": 2}
    trip = found.happenings[1]
    assert trip.at == weekend.started_at + HOUR
    assert (trip.run, trip.run_name) == (weekend.pk, weekend.name)


def test_only_what_came_since_is_told(weekend):
    moment = weekend.started_at + timedelta(seconds=3650)
    assert [sort for sort, _ in told(moment)] == ["marker", "gap", "gap"]
    weekend.state, weekend.ended_because = "interrupted", "No device sent samples for a minute"
    weekend.ended_at = datetime.now(UTC) - HOUR
    weekend.save()
    assert told(datetime.now(UTC) - 2 * HOUR) == [
        ("interrupted", "No device sent samples for a minute")
    ]
    assert told(datetime.now(UTC)) == []


def test_dry_and_discarded_runs_are_no_news(weekend):
    weekend.is_dry = True
    weekend.save()
    assert told(weekend.started_at - HOUR) == []


def test_what_one_has_seen_is_not_told_again_to_oneself(weekend, as_role):
    engineer, technician = as_role("engineer"), as_role("technician")
    seen = weekend.started_at + timedelta(seconds=3650)
    assert len(engineer.get("/api/since").json()["happenings"]) == 5
    body = {"until": seen.isoformat()}
    assert engineer.post("/api/since/seen", body, JSON).status_code == 204
    assert [h["sort"] for h in engineer.get("/api/since").json()["happenings"]] == [
        "marker",
        "gap",
        "gap",
    ]
    assert len(technician.get("/api/since").json()["happenings"]) == 5


def test_nobody_has_seen_the_future(weekend, as_role):
    client = as_role("engineer")
    client.post("/api/since/seen", {"until": "2999-01-01T00:00:00Z"}, JSON)
    mark(weekend, 10 * 3600 + 60, MarkerKind.GUARD, "F went above 2 kN to 2.1 kN: warned")
    assert [h["words"] for h in client.get("/api/since").json()["happenings"]] == [
        "F went above 2 kN to 2.1 kN: warned"
    ]


# By e-mail


def asks(client, **body):
    return client.patch("/api/session/preferences", body, JSON)


def test_who_asked_for_it_gets_one_message_of_all_that_matters(weekend, as_role):
    client = as_role("engineer")
    assert asks(client, mails=True, email="engineer@example.org").status_code == 200
    Preferences.objects.update(mailed_until=weekend.started_at - HOUR)
    send_messages()
    (message,) = mail.outbox
    assert message.to == ["engineer@example.org"]
    assert message.subject == "3 things happened at the bench"
    assert f"{weekend.name}: u axle went above 25 mm to 26 mm: held" in message.body
    assert "Cable tied down" not in message.body  # a person was there
    send_messages()
    assert len(mail.outbox) == 1, "nothing is told twice"


def test_an_end_is_told_with_its_cause(weekend, as_role):
    asks(as_role("engineer"), mails=True, email="engineer@example.org")
    weekend.state, weekend.ended_because = "kept", "500000 cycles are done"
    weekend.ended_at = datetime.now(UTC)
    weekend.save()
    send_messages()
    assert mail.outbox[0].subject == f"{weekend.name}: has ended: 500000 cycles are done"


def test_only_what_happens_after_one_asked_is_told(weekend, as_role):
    asks(as_role("engineer"), mails=True, email="engineer@example.org")
    send_messages()
    assert mail.outbox == []


def test_a_mail_server_that_is_away_loses_no_message(weekend, as_role, monkeypatch):
    asks(as_role("engineer"), mails=True, email="engineer@example.org")
    Preferences.objects.update(mailed_until=weekend.started_at)

    def refuse(*_, **__):
        raise ConnectionRefusedError("no mail server")

    with monkeypatch.context() as away:
        away.setattr("yoke_server.record.messages.send_mail", refuse)
        send_messages()
    send_messages()
    assert len(mail.outbox) == 1


def test_who_left_is_told_nothing(weekend, as_role):
    asks(as_role("engineer"), mails=True, email="engineer@example.org")
    Preferences.objects.update(mailed_until=weekend.started_at)
    User.objects.update(is_active=False)
    send_messages()
    assert mail.outbox == []


@pytest.mark.parametrize(
    ("body", "words"),
    [({"mails": True}, "no address"), ({"email": "engineer at work"}, "no e-mail address")],
)
def test_messages_need_an_address(as_role, body, words):
    answer = asks(as_role("engineer"), **body)
    assert answer.status_code == 422
    assert words in answer.json()["title"] + answer.json().get("detail", "")
