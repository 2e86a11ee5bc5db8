"""Signal checks against the rig: what is seen, kept, compared and refused."""

import pytest
from yoke_server.record.models import SignalCheck

from tests.problems import code_of
from tests.recorded import begin

pytestmark = pytest.mark.django_db(transaction=True)
JSON = "application/json"


def look(client, setup, **body):
    return client.post(f"/api/setups/{setup.pk}/signal-checks", body, JSON)


def spectrum(client, setup, key):
    return client.post(f"/api/setups/{setup.pk}/spectrum", {"channel": key}, JSON)


def put(client, setup, channel, faults):
    body = {"input": channel.input.number, "faults": faults}
    answer = client.post(f"/api/devices/{channel.input.device_id}/faults", body, JSON)
    assert answer.status_code == 204


def of(check, name):
    return next(c for c in check["channels"] if c["name"] == name)


def kinds(channel):
    return [f["kind"] for f in channel["findings"]]


@pytest.mark.usefixtures("lab")
class TestOfTheRig:
    def test_each_channel_is_seen_in_its_quantity_and_compared_with_last_time(self, driving, setup):
        client = driving("technician")
        first = look(client, setup)
        assert first.status_code == 201, first.content
        seen = first.json()
        assert [c["name"] for c in seen["channels"]] == ["F", "e clip", "SG1", "SG2"]
        force = of(seen, "F")
        assert 0.05 < force["noise"] < 50, "newtons"
        assert force["samples"] == 2 * force["rate_hz"]
        assert (len(force["low"]), len(force["amplitude"])) == (96, 160)
        assert force["level_bits"] > force["noise_bits"] > 2
        assert seen["compared_at"] is None
        again = look(client, setup).json()
        assert again["compared_at"] == seen["at"]
        assert of(again, "F")["noise_before"] == pytest.approx(1, abs=0.2)
        rows = client.get(f"/api/setups/{setup.pk}/signal-checks").json()
        assert [r["id"] for r in rows] == [again["id"], seen["id"]]
        kept = client.get(f"/api/signal-checks/{seen['id']}").json()
        assert kept == seen

    def test_a_broken_wire_blocks_and_is_no_measure_of_the_noise_to_come(
        self, driving, setup, settings
    ):
        settings.STAND_INS = True
        client = driving("technician")
        sg1 = setup.channels.get(name="SG1")
        put(client, setup, sg1, "broken 5")
        broken = of(look(client, setup).json(), "SG1")
        assert kinds(broken) == ["clipped"]
        assert broken["findings"][0]["blocks"]
        assert broken["amplitude"] == []
        assert spectrum(client, setup, sg1.key).json()["amplitude"] == []
        put(client, setup, sg1, "")
        mended = of(look(client, setup).json(), "SG1")
        assert (mended["noise_before"], kinds(mended)) == (None, [])

    def test_a_spectrum_of_one_channel_keeps_nothing(self, as_role, setup):
        key = setup.channels.get(name="F").key
        found = spectrum(as_role("reviewer"), setup, key)
        assert found.status_code == 200, found.content
        assert len(found.json()["amplitude"]) == 160
        assert not SignalCheck.objects.exists()


def test_only_those_who_check_may_and_only_channels_that_are_there(as_role, setup):
    assert look(as_role("reviewer"), setup).status_code == 403
    answer = spectrum(as_role("technician"), setup, "nothere")
    assert answer.status_code == 404
    assert look(as_role("technician"), setup, mains_hz=0.0).json()["field"] == "mains_hz"


def test_not_while_a_run_is_recorded(as_role, setup):
    begin(setup)
    answer = look(as_role("technician"), setup)
    assert (answer.status_code, code_of(answer)) == (409, "being-recorded")
