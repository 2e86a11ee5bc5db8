"""Looking at the signals of a setup before a test, and keeping what was found."""

from django.conf import settings
from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Order
from yoke_server.bench.services import send
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.orders.measuring import SignalSnapshot, TakeSnapshot
from yoke_server.ledger.services import record
from yoke_server.record.models import SignalCheck
from yoke_server.record.queries import open_run
from yoke_server.record.signal_check.judge import as_snapshot, hum_lines, judged, per_signal
from yoke_server.record.signal_check.schemas import (
    CheckedSignals,
    SignalCheckOut,
    SignalCheckRow,
    SpectrumOut,
)
from yoke_server.setups.freezing import freeze_channels
from yoke_server.setups.models import Setup

LOSS_HZ = 6.0  # of the wave whose loss is said
MAX_KEPT = 50  # of a setup; the oldest go


@transaction.atomic
def order_check(actor: Actor, setup_id: int, mains_hz: float) -> Order:
    """Look at all channels of a setup; not while a run is recorded, which it could hold up."""
    require(actor, "zero and check channels")
    setup = Setup.objects.select_related("bench").get(pk=setup_id)
    if running := open_run(setup.bench_id):
        raise Problem(
            409,
            f"{running.name} is being recorded.",
            code=ProblemType.BEING_RECORDED,
            hint="Check the signals before a run, or after it.",
        )
    keys = sorted(setup.channels.values_list("key", flat=True))
    return _look(actor, setup, keys, mains_hz)


@transaction.atomic
def order_spectrum(actor: Actor, setup_id: int, key: str, mains_hz: float) -> Order:
    """Look at one channel, also while a run is recorded."""
    setup = Setup.objects.select_related("bench").get(pk=setup_id)
    setup.channels.get(key=key)
    return _look(actor, setup, [key], mains_hz)


def _look(actor: Actor, setup: Setup, keys: list[str], mains_hz: float) -> Order:
    wanted = TakeSnapshot(channels=keys, mains_hz=mains_hz)
    return send(actor, setup.bench, wanted, seconds=settings.MEASURE_SECONDS)


@transaction.atomic
def keep_check(actor: Actor, setup_id: int, found: SignalSnapshot, mains_hz: float) -> SignalCheck:
    """Judge what was seen against the last time, and keep it."""
    setup = Setup.objects.select_for_update().get(pk=setup_id)
    last = SignalCheck.objects.filter(setup=setup).order_by("-pk").first()
    before = _noises(last) if last else {}
    result = CheckedSignals(
        channels=judged(found, freeze_channels(setup), before),
        compared_at=last.at if last else None,
    )
    kept = SignalCheck.objects.create(
        setup=setup,
        version=setup.version,
        actor=actor.user,
        mains_hz=mains_hz,
        document=result.model_dump(mode="json"),
    )
    wrong = sum(bool(c.findings) for c in result.channels)
    record(actor, f"Checked the signals of {setup.name}, {wrong} to mend")
    newest = SignalCheck.objects.filter(setup=setup).order_by("-pk").values("pk")[:MAX_KEPT]
    SignalCheck.objects.filter(setup=setup).exclude(pk__in=newest).delete()
    return kept


def _noises(check: SignalCheck) -> dict[str, float]:
    return {
        c["key"]: c["noise_signal"]
        for c in check.document["channels"]
        if c["noise_signal"] and not any(f["blocks"] for f in c["findings"])
    }


def signal_checks(setup_id: int) -> list[SignalCheckRow]:
    """Those of a setup, the newest first."""
    Setup.objects.only("pk").get(pk=setup_id)
    rows = SignalCheck.objects.filter(setup_id=setup_id).order_by("-pk")[:MAX_KEPT]
    return [
        SignalCheckRow(
            id=row.pk,
            at=row.at,
            channels=len(row.document["channels"]),
            wrong=sum(bool(c["findings"]) for c in row.document["channels"]),
            blocking=sum(any(f["blocks"] for f in c["findings"]) for c in row.document["channels"]),
        )
        for row in rows
    ]


def signal_check(check_id: int) -> SignalCheckOut:
    from yoke_core.snapshot.facts import averaging_loss

    row = SignalCheck.objects.select_related("actor").get(pk=check_id)
    by = (row.actor.get_full_name() or row.actor.username) if row.actor else ""
    return SignalCheckOut(
        **CheckedSignals.model_validate(row.document).model_dump(),
        id=row.pk,
        at=row.at,
        by=by,
        version=row.version,
        mains_hz=row.mains_hz,
        averaging_loss=averaging_loss(LOSS_HZ, row.mains_hz),
    )


def spectrum_of(setup_id: int, key: str, found: SignalSnapshot) -> SpectrumOut:
    """Of one channel; nothing is kept."""
    setup = Setup.objects.get(pk=setup_id)
    [channel] = [c for c in freeze_channels(setup) if c.key == key]
    slope, seen = per_signal(channel), as_snapshot(found.channels[key])
    return SpectrumOut(
        rate_hz=seen.rate_hz,
        amplitude=(seen.amplitude * slope).tolist(),
        hum=hum_lines(seen.hum, slope),
        noise=None if seen.clipped else seen.noise * slope,
    )
