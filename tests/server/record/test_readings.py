"""How a run is read afterwards: filters, formulas and corrections, stored and made anew."""

import numpy as np
import pytest
from yoke_core.streaming.block import summarise_block
from yoke_server.common.http.problems import Problem
from yoke_server.derive.inputs import in_pieces, whole
from yoke_server.exchange.formats.csv import SIGNS, csv_parts
from yoke_server.exchange.rows import exported
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.kinds.steps.filters import LowPass
from yoke_server.kinds.steps.gauge import ThermalOutput
from yoke_server.record.channel_of_run import channel_of_run
from yoke_server.record.models import Block, EnvelopeRow, Run, Stream
from yoke_server.record.plot_data import view
from yoke_server.record.readings import build, preview
from yoke_server.record.readings.build import _between_samples, build_all
from yoke_server.record.readings.definitions import readings_of
from yoke_server.record.recorder.display.live_computed import LiveComputed
from yoke_server.record.recorder.stream.block_order import Missing
from yoke_server.record.tasks import cancel_readings, make
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup
from yoke_server.setups.services import keep_revision
from yoke_server.setups.signals import signals_of

from tests.recorded import FULL, PER_BLOCK, begin, block, close, keeper, stream_of

pytestmark = pytest.mark.django_db
JSON = "application/json"
BLOCKS = 30


def counts_of(number, rate=1000.0):
    """Two sines with noise on each of eight inputs, as one device measures them."""
    t = (number * PER_BLOCK + np.arange(PER_BLOCK)) / rate
    dice = np.random.default_rng(number)
    slow = 0.2 * np.sin(2 * np.pi * 0.7 * t)[:, None] * np.arange(1, 9)[None, :] / 8
    return np.round(FULL * (slow + 0.01 * dice.normal(size=(len(t), 8)))).astype(np.int32)


@pytest.fixture
def gauge(setup):
    return setup.channels.get(name="SG1")


@pytest.fixture
def wanted(setup, gauge):
    """SG1 goes through a filter; two channels are computed, one of the filtered one."""
    gauge.steps = [LowPass(corner_hz=20.0)]
    gauge.save()
    force = setup.channels.get(name="F")
    setup.computed = [
        ComputedChannel(
            key="slope", name="slope", unit="µm/m/s", decimals=2,
            formula=f"rate({{{gauge.key}}}, over 50 ms)",
        ),
        ComputedChannel(
            key="doubled", name="doubled", unit="kN", decimals=2,
            formula=f"{{{force.key}}} + mean({{{force.key}}}, last 250 ms)",
        ),
    ]  # fmt: skip
    setup.save()
    keep_revision(None, setup, "test")
    return setup


def recorded(setup, missing=()):
    run = begin(setup)
    one = keeper(run, stream_of(run))
    for number in range(BLOCKS):
        if number in missing:
            one.take(Missing(number, number))
        else:
            one.take(block(number, counts_of(number)))
    close(run, one)
    return Run.objects.select_related("setup", "revision").get(pk=run.pk)


def computed_rows(run):
    return Stream.everything.filter(run=run, home__isnull=False)


def as_live(setup, missing=()):
    """What the recorder shows of the same blocks, sample by sample, by key."""
    frozen = freeze(Setup.objects.get(pk=setup.pk))
    channels = frozen.of_device("A1")
    signals = signals_of(frozen.channels, frozen.computed, frozen.rates_hz)
    live = LiveComputed(channels, signals, 1000.0)
    parts, follows = {key: [] for key in live.keys}, False
    for number in range(BLOCKS):
        if number in missing:
            follows = False
            continue
        one = block(number, counts_of(number))
        summary = summarise_block(one.counts, one.full_scale, one.rail, 5, None)
        readings = {key: live._reading(key, summary) for key in live._inputs}
        for key, values in live._process.push(readings, follows).items():
            parts[key].append(values)
        follows = True
    return {key: np.concatenate(found) for key, found in parts.items()}


@pytest.mark.parametrize("missing", [(), (9, 20)])
def test_what_is_stored_is_what_was_shown_live(wanted, gauge, missing):
    run = recorded(wanted, missing)
    make(run.pk)
    live = as_live(wanted, missing)
    assert set(live) == {gauge.key, "slope", "doubled"}
    for key, values in live.items():
        assert np.isfinite(values).mean() > 0.5
        np.testing.assert_array_equal(whole(run, key).astype("f4"), values.astype("f4"))


def test_a_filtered_channel_is_read_and_drawn_behind_its_filter(wanted, gauge):
    run = recorded(wanted)
    assert channel_of_run(run.pk, gauge.key) is None  # not the raw samples instead
    make(run.pk)
    found = channel_of_run(run.pk, gauge.key)
    values = whole(run, gauge.key)
    (part,) = view(found, 0.0, 3.0, 3000)
    np.testing.assert_array_equal(part.low, values.astype("f4"))
    (part,) = view(found, 0.0, 3.0, 40)  # by its own envelope
    for column, (low, high) in enumerate(zip(part.low, part.high, strict=True)):
        at = slice(column * len(values) // 40 - 40, (column + 1) * len(values) // 40 + 40)
        assert np.nanmin(values[max(at.start, 0) : at.stop]) <= low or np.isnan(low)
        assert high <= np.nanmax(values[max(at.start, 0) : at.stop]) or np.isnan(high)
    assert EnvelopeRow.objects.filter(stream__in=computed_rows(run)).count() >= 3


def test_channels_of_several_kinds_are_read_at_the_same_instants(wanted, gauge):
    run = recorded(wanted)
    make(run.pk)
    force = run.setup.channels.get(name="F").key
    pieces = list(in_pieces(run, [force, gauge.key, "doubled"]))
    rows = np.concatenate([values for _, values in pieces], axis=1)
    assert rows.shape == (3, BLOCKS * PER_BLOCK)
    mean = np.convolve(rows[0], np.ones(250) / 250, "valid")
    assert rows[2][249:] == pytest.approx(rows[0][249:] + mean, rel=1e-5, abs=1e-2)


class Evenly:
    """Samples of one device: when they were taken, and what they are."""

    def __init__(self, rate_hz, count, signal=lambda t: t):
        self.rate_hz, self.samples = rate_hz, count
        self.times, self.stream, self.signal = self, self, signal

    def seconds_of(self, places):
        return np.asarray(places) / self.rate_hz

    def place_of(self, seconds):
        return int(seconds * self.rate_hz)

    def read(self, first, last):
        return self.signal(self.seconds_of(np.arange(first, last)))


@pytest.mark.parametrize(("wave_hz", "kept"), [(5.0, 1.0), (93.0, 0.0)])
def test_where_the_rate_falls_nothing_faster_comes_through(wave_hz, kept):
    """93 Hz taken at 100 Hz as it comes would read as 7 Hz."""
    fast = Evenly(1000.0, 4000, lambda t: np.sin(2 * np.pi * wave_hz * t))
    slow = Evenly(100.0, 400)
    found = _between_samples(fast, 1 / 1000.0, slow, 100, 300)
    wave = np.sin(2 * np.pi * wave_hz * np.arange(100, 300) / 100.0)
    assert found == pytest.approx(kept * wave, abs=2e-3)
    parts = [_between_samples(fast, 1 / 1000.0, slow, a, a + 50) for a in range(100, 300, 50)]
    assert np.concatenate(parts) == pytest.approx(found, abs=1e-9)


def test_the_seal_does_not_know_them_and_they_can_be_made_anew(wanted):
    run = recorded(wanted)
    seal, blocks = run.seal, Block.objects.filter(stream__in=run.streams.all()).count()
    make(run.pk)
    before = {s.fingerprint: s.pk for s in computed_rows(run)}
    first = whole(run, "slope")
    computed_rows(run).delete()
    make(run.pk)
    again = {s.fingerprint: s.pk for s in computed_rows(run)}
    assert set(before) == set(again) and not set(before.values()) & set(again.values())
    np.testing.assert_array_equal(whole(run, "slope"), first)
    run.refresh_from_db()
    assert run.seal == seal
    assert Block.objects.filter(stream__in=run.streams.all()).count() == blocks
    make(run.pk)  # nothing is missing: nothing is made
    assert {s.pk for s in computed_rows(run)} == set(again.values())


def test_a_definition_that_changed_is_made_and_the_old_one_dropped(wanted):
    run = recorded(wanted)
    make(run.pk)
    before = readings_of(run).fingerprint("slope")
    run.setup.computed = [
        c.model_copy(update={"formula": c.formula.replace("50 ms", "80 ms")})
        for c in run.setup.computed
    ]
    run.setup.save()
    after = readings_of(run).fingerprint("slope")
    assert after != before
    make(run.pk)
    kept = set(computed_rows(run).values_list("fingerprint", flat=True))
    assert after in kept and before not in kept
    assert len(kept) == 3


def test_one_that_was_left_half_made_is_made_anew(wanted, monkeypatch):
    run, written = recorded(wanted), build.write_samples

    class Died(BaseException):
        pass

    def dies(rows):
        written(rows)
        raise Died

    monkeypatch.setattr(build, "write_samples", dies)
    with pytest.raises(Died):
        make(run.pk)
    assert computed_rows(run).filter(complete=False).count() == 1
    monkeypatch.undo()
    make(run.pk)
    assert computed_rows(run).filter(complete=False).count() == 0
    assert len(whole(run, "slope")) == BLOCKS * PER_BLOCK


def test_one_that_is_cancelled_ends_without_a_trace(wanted, monkeypatch, engineer):
    run, written = recorded(wanted), build.write_samples
    monkeypatch.setattr(build, "ROW_SAMPLES", 500)

    def cancels(rows):
        written(rows)
        cancel_readings(engineer, run)

    monkeypatch.setattr(build, "write_samples", cancels)
    build_all(run, readings_of(run), ["slope"])
    assert not computed_rows(run).exists()


def test_a_computed_channel_is_exported_with_its_formula(wanted):
    run = recorded(wanted)
    make(run.pk)
    text = b"".join(csv_parts(exported(run.pk, run.streams.get().pk), SIGNS["point"])).decode()
    assert "# slope: computed, rate(SG1, over 50 ms)" in text
    head = text.splitlines()
    place = next(i for i, line in enumerate(head) if line.startswith("time,"))
    assert head[place].endswith("slope,doubled") and head[place + 1].endswith("µm/m/s,kN")
    assert len(head) == place + 2 + BLOCKS * PER_BLOCK


def test_nothing_is_exported_before_it_is_computed(wanted, as_role):
    run = recorded(wanted)
    url = f"/api/runs/{run.pk}/streams/{run.streams.get().pk}/files/csv"
    answer = as_role("engineer").get(url)
    assert answer.status_code == 409
    assert answer.json()["type"] == "/problems/not-ready"


def test_screens_read_how_each_channel_is_read(wanted, gauge, as_role):
    run, client = recorded(wanted), as_role("technician")
    before = client.get(f"/api/runs/{run.pk}/readings").json()
    shares = {c["name"]: c["share"] for c in before["channels"]}
    assert (shares["F"], shares["SG1"], shares["slope"]) == (1.0, 0.0, 0.0)
    answer = client.post(f"/api/runs/{run.pk}/readings", {"first": "slope"}, content_type=JSON)
    assert answer.status_code == 202
    make(run.pk, "slope")
    after = client.get(f"/api/runs/{run.pk}/readings").json()
    assert {c["share"] for c in after["channels"]} == {1.0}
    slope = next(c for c in after["channels"] if c["key"] == "slope")
    assert (slope["formula"], slope["unit"], slope["factor"]) == (
        "rate(SG1, over 50 ms)",
        "µm/m/s",
        pytest.approx(1e-6),
    )
    assert slope["fingerprint"] == readings_of(run).fingerprint("slope")


def test_a_formula_whose_channel_the_run_has_not_says_so(wanted, as_role):
    run = recorded(wanted)
    gone = ComputedChannel(key="gone", name="gone", unit="kN", decimals=1, formula="2 * {nobody}")
    run.setup.computed = [*run.setup.computed, gone]
    run.setup.save()
    shown = as_role("reviewer").get(f"/api/runs/{run.pk}/readings").json()
    assert ["gone" in p and "was removed" in p for p in shown["problems"]] == [True]
    make(run.pk)
    assert computed_rows(run).count() == 3


def test_a_formula_that_the_runs_rate_does_not_hold_says_so_and_hinders_no_other(wanted, as_role):
    run = recorded(wanted)
    fast = ComputedChannel(
        key="fast",
        name="fast",
        unit="kN",
        decimals=1,
        formula=f"lowpass({{{run.setup.channels.get(name='F').key}}}, to 700 Hz)",
    )
    run.setup.computed = [fast, *run.setup.computed]
    run.setup.save()
    make(run.pk)
    shown = as_role("reviewer").get(f"/api/runs/{run.pk}/readings").json()["channels"]
    by_key = {c["key"]: c for c in shown}
    assert "too high for 1000 samples" in by_key["fast"]["problem"]
    assert by_key["slope"]["share"] == 1.0
    assert computed_rows(run).count() == 3
    names = [c.name for c in exported(run.pk, run.streams.get().pk).channels]
    assert names == ["F", "e clip", "SG1", "slope", "doubled"]


def with_thermometer_gone(setup, gauge):
    """SG1 is corrected by a thermometer that the runs do not have."""
    gauge.steps = [ThermalOutput(temperature="gone", coefficients=[0.0, 1e-6])]
    gauge.save()
    keep_revision(None, setup, "test")
    return recorded(Setup.objects.get(pk=setup.pk))


def test_a_step_that_lacks_something_is_never_left_out_silently(wanted, gauge, as_role):
    run = with_thermometer_gone(wanted, gauge)
    make(run.pk)
    for key in (gauge.key, "slope"):  # the formula names it
        with pytest.raises(Problem, match="names no temperature channel"):
            whole(run, key)
    shown = as_role("reviewer").get(f"/api/runs/{run.pk}/readings").json()
    problems = {c["key"]: c["problem"] for c in shown["channels"]}
    assert "names no temperature channel" in problems[gauge.key]
    assert "names no temperature channel" in problems["slope"]
    assert problems["doubled"] == ""
    assert channel_of_run(run.pk, gauge.key) is None


def test_a_step_that_lacks_something_hinders_nothing_while_it_is_off(wanted, gauge):
    gauge.steps = [ThermalOutput(on=False, temperature="gone", coefficients=[0.0, 1e-6])]
    gauge.save()
    keep_revision(None, wanted, "test")
    run = recorded(Setup.objects.get(pk=wanted.pk))
    assert np.isfinite(whole(run, gauge.key)).all()


def test_who_only_reads_cancels_nothing(wanted, as_role):
    run = recorded(wanted)
    url = f"/api/runs/{run.pk}/readings"
    assert as_role("reviewer").delete(url).status_code == 403
    assert as_role("technician").delete(url).status_code == 204


@pytest.mark.parametrize("key", ["slope", "doubled"])
def test_what_somebody_looks_at_is_there_before_the_worker_comes(wanted, as_role, key, monkeypatch):
    """Only as many samples are computed as the window depends on."""
    monkeypatch.setattr(preview, "MOST", 1200)
    run = recorded(wanted)
    asked = f"/api/runs/{run.pk}/view?channel={key}&from_s=2.2&to_s=2.5&pixels=2000"
    before = columns_of(as_role("engineer").get(asked).content)
    assert not computed_rows(run).exists()
    make(run.pk)
    after = columns_of(as_role("engineer").get(asked).content)
    assert len(before) >= 300
    np.testing.assert_allclose(before[:300], after[:300], rtol=1e-6)


def columns_of(answer):
    """The lowest of each column."""
    length = int.from_bytes(answer[:4], "little")
    table = np.frombuffer(answer[4 + length :], "<f4")
    return table.reshape(2, -1)[0]
