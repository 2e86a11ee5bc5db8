"""`manage.py recorder`: the process that talks to the devices of one bench, or of all."""

import gc
import signal
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from yoke_core.warm import compile_all

from yoke_server.bench.models import Bench
from yoke_server.record.recorder.process import Recorder


class Command(BaseCommand):
    help = __doc__
    # They load every page's code, which is not the recorder's; the web process makes them.
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--bench", action="append", default=[], metavar="NAME")
        parser.add_argument("--stand-ins", type=Path, help="file in which a rig says its ports")

    def handle(self, *args: Any, **options: Any) -> None:
        names = options["bench"]
        if unknown := set(names) - set(Bench.objects.values_list("name", flat=True)):
            raise CommandError(f"There is no bench {min(unknown)}.")
        recorder = Recorder(names, options["stand_ins"])
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: recorder.stop())
        compile_all()
        gc.freeze()  # what is imported stays: no use in looking it through while a run is recorded
        recorder.run()
