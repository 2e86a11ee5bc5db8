"""A clean database with the demo's setup, for the benchmarks."""

from typing import Any

from django.core.management import call_command

from tests import processes


def fresh_setup(rate_hz: float | None = None) -> Any:
    """The demo's setup in an emptied database; with a rate, all eight inputs are wired."""
    from yoke_server.wire import demo
    from yoke_server.wire.models import Channel, Setup

    call_command("migrate", verbosity=0)
    call_command("flush", interactive=False, verbosity=0)
    setup = demo.load(processes.free_ports())
    if rate_hz:
        Setup.objects.filter(pk=setup.pk).update(rate_hz=rate_hz)
        first = Channel.objects.order_by("input_number").first()
        assert first is not None
        for number in range(4, 9):
            first.pk, first.input_number, first.name = None, number, f"F{number}"
            first.save()
    return Setup.objects.get(pk=setup.pk)
