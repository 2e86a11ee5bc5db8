"""A clean database with the demo's setup, for the benchmarks."""

from typing import TYPE_CHECKING, Any

from django.core.management import call_command

from tests import processes

if TYPE_CHECKING:
    from yoke_server.bench.models import Order


def fresh_setup(rate_hz: float | None = None, devices: tuple[str, ...] = ("A1",)) -> Any:
    """The demo's setup in an emptied database; with a rate, all inputs of some devices wired."""
    from yoke_server.bench.models import Input
    from yoke_server.demo import services as demo
    from yoke_server.setups.models import Channel, Setup, new_key
    from yoke_server.setups.services import keep_revision

    call_command("migrate", verbosity=0)
    call_command("flush", interactive=False, verbosity=0)
    setup = demo.load_coupons()
    if rate_hz:
        first = Channel.objects.get(name="F")
        setup.channels.exclude(input__device__label__in=devices).delete()
        setup.devices.filter(device__label__in=devices).update(rate_hz=rate_hz)
        setup.devices.exclude(device__label__in=devices).delete()
        taken = setup.channels.values("input")
        for plug in Input.objects.filter(device__label__in=devices).exclude(pk__in=taken):
            first.pk, first.key, first.input, first.name = None, new_key(), plug, plug.label
            first.save()
        keep_revision(None, setup, "all inputs wired")
    return Setup.objects.get(pk=setup.pk)


def answered(order: "Order") -> dict[str, object]:
    """The recorder's answer to an order; no loop of its own, since a browser's runs here."""

    def done() -> bool:
        order.refresh_from_db()
        return order.state == "done"

    processes.wait_for(done, "the answer")
    return dict(order.answer)
